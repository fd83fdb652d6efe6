"""A paint's new name in a planned sheet: its recipes, its settings, its order of work and what is written on it."""

import re
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from culmo.core.paint.recipe import format_recipe, parse_recipe

Rename = Callable[[str], str]
# what a plan was made from, where it names paints
_NAMES, _RECIPES, _TEXTS = ("paints", "across", "extra"), ("recipes",), ("labels", "texts")
_LEAST_STEM = 3  # letters: a label that is cut shorter could be of any paint


def renaming(old: str, new: str) -> Rename:
    """A function that gives the new name for the old one, however it is written, and any other as it is."""
    folded = old.strip().casefold()
    return lambda name: new if name.strip().casefold() == folded else name


def renamed_recipe(text: str, rename: Rename) -> str:
    """A recipe's text with its paints put through `rename`; unchanged where it names none of them."""
    recipe = parse_recipe(text)
    other = recipe.renamed(rename)
    return text if other == recipe else format_recipe(other)


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


def _settings(settings: Mapping[str, Any], rename: Rename) -> dict[str, Any]:
    result = dict(settings)
    for key in _NAMES + _TEXTS:
        if isinstance(result.get(key), list | tuple):
            result[key] = [rename(str(name)) for name in result[key]]
        elif isinstance(result.get(key), str):
            result[key] = rename(result[key])
    for key in _RECIPES:
        if isinstance(result.get(key), list | tuple):
            result[key] = [renamed_recipe(str(text), rename) for text in result[key]]
    return result


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
