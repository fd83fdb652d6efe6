"""A paint's new name in a planned sheet: its recipes, its settings, its order of work and what is written on it."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from culmo.core.chart.options import SomePaints
from culmo.core.chart.plans import Plan, described, plan_from
from culmo.core.chart.sheet import Sheet
from culmo.core.paint.recipe import Rename, renamed_recipe, renaming

_LEAST_STEM = 3  # letters: a label that is cut shorter could be of any paint


def renamed_sheet(data: Mapping[str, Any], old: str, new: str, names: Sequence[str] = ()) -> dict[str, Any]:
    """A sheet in its open form (docs/formats.md) with a paint's new name, and nothing else changed.

    Parameters
    ----------
    data : mapping, as `sheet_to_dict` gives it; a sheet without its cells too
    old, new : str
    names : sequence of str, all paints, so that "Rose" is not renamed inside "Rose madder"

    Raises
    ------
    CulmoError
        where a recipe can not be read
    """
    rename = renaming(old, new)
    result = dict(data)
    result["settings"] = _settings(data.get("settings") or {}, rename)
    if "cells" in data:
        result["cells"] = [
            {**cell, "recipe": renamed_recipe(cell["recipe"], rename)} for cell in data["cells"]
        ]
    if "work" in data:
        result["work"] = [
            {**step, "recipe": renamed_recipe(step["recipe"], rename)} if step.get("recipe") else dict(step)
            for step in data["work"]
        ]
    if "labels" in data:
        said = _in_texts(old, new, names)
        title = str(data.get("title", ""))  # the painter's own words, though they may name a paint
        result["labels"] = [
            label if label["text"] == title else {**label, "text": said(str(label["text"]))}
            for label in data["labels"]
        ]
    return result


def swapped_plan(sheet: Sheet, out: str, into: str) -> Plan | None:
    """The plan that a sheet was made from with one paint in the place of another; None where it was made otherwise.

    Parameters
    ----------
    sheet : Sheet
    out : str
    into : str, a paint that is not on the sheet
    """
    return plan_from(replace(sheet, settings=_settings(sheet.settings, renaming(out, into))))


def _settings(settings: Mapping[str, Any], rename: Rename) -> dict[str, Any]:
    """What a plan was made from; each option knows by its form whether it names paints."""
    forms = {name: own.form for name, own in described().items()}
    forms["texts"] = SomePaints()  # what was written for each paint, as earlier versions kept it
    return {
        key: forms[key].renamed(value, rename) if key in forms and value is not None else value
        for key, value in settings.items()
    }


def _in_texts(old: str, new: str, names: Sequence[str]) -> Rename:
    """What is written on a sheet, with the new name where the old one stood as a whole, or cut short at its end."""
    folded = old.casefold()
    others = [name for name in names if name.casefold() not in (folded, new.casefold())]
    longest = sorted({old, *others}, key=len, reverse=True)
    pattern = re.compile(rf"(?<!\w)(?:{'|'.join(map(re.escape, longest))})(?!\w)", re.IGNORECASE)

    def whole(found: re.Match[str]) -> str:
        return new if found.group().casefold() == folded else found.group()

    def said(text: str) -> str:
        stem = text.removesuffix("…").casefold()
        if text.endswith("…") and len(stem) >= _LEAST_STEM and folded.startswith(stem):
            if any(other.casefold().startswith(stem) for other in others):
                return text  # it may be another paint's
            return new if len(new) <= len(text) else new[: len(text) - 1].rstrip(" ,;:…") + "…"
        return pattern.sub(whole, text)

    return said
