"""Kept palettes and lists of wanted colours: the acts, and the rows as values."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from culmo.core.colour.srgb import check_lab
from culmo.errors import CulmoError
from culmo.study.acts import NAME_LIMIT
from culmo.study.draft import Draft
from culmo.study.file import Command, Study
from culmo.study.records import json_of
from culmo.study.soundness import moment_of
from culmo.words import tr, trn

Lab = tuple[float, float, float]
MOST_WANTED = 400


@dataclass(frozen=True)
class KeptPalette:
    """A palette with its verdict.

    Attributes
    ----------
    id : int
    name : str
    paints : tuple of str
    purpose, reason : str
    created : str, ISO 8601
    reach : mapping, what it reached of which box when it was kept
    """

    id: int
    name: str
    paints: tuple[str, ...]
    purpose: str
    reason: str
    created: str
    reach: Mapping[str, Any] = field(default_factory=dict)

    @property
    def date(self) -> str:
        """The day it was kept."""
        return moment_of(self.created).date().isoformat()


@dataclass(frozen=True)
class Wanted:
    """A colour that is wanted.

    Attributes
    ----------
    name : str, may be empty
    lab : (L, a, b)
    id : int, the row's; 0 before it is kept
    """

    name: str
    lab: Lab
    id: int = 0


def kept_palettes(study: Study) -> list[KeptPalette]:
    """All kept palettes, the latest first."""
    return [
        KeptPalette(
            row["id"], row["name"], tuple(row["paints"].splitlines()), row["purpose"], row["reason"],
            row["created"], json_of(row, "reach"),
        )
        for row in study.rows("palettes", order="created DESC, id DESC")
    ]  # fmt: skip


def _check_title(name: str, what: str) -> str:
    name = name.strip()
    if not name or len(name) > NAME_LIMIT or any(ord(letter) < 32 for letter in name):
        raise CulmoError(
            tr(
                "{what} needs a name of 1 to {NAME_LIMIT} letters on one line",
                what=what,
                NAME_LIMIT=NAME_LIMIT,
            )
        )
    return name


def keep_palette(
    study: Study, name: str, paints: Sequence[str], purpose: str = "", reason: str = "", reach: object = None
) -> Command:
    """Keep a palette with its verdict.

    Raises
    ------
    CulmoError
        when it has no name or no paint, or its name is taken
    """
    name = _check_title(name, tr("the palette"))
    if not paints:
        raise CulmoError(tr("the palette has no paint yet"))
    if any(row["name"].casefold() == name.casefold() for row in study.rows("palettes")):
        raise CulmoError(tr('there is a palette named "{name}" already', name=name))
    draft = Draft(study, tr("Keep {name}", name=name))
    draft.add(
        "palettes", name=name, paints="\n".join(paints), purpose=purpose.strip(), reason=reason.strip(),
        reach=json.dumps(reach or {}), created=draft.at,
    )  # fmt: skip
    why = f": {reason.strip()}" if reason.strip() else ""
    draft.tell(
        "verdict",
        tr(
            "{name}, {n} paints ({what}), was kept{why}",
            name=name,
            n=len(paints),
            what=", ".join(paints),
            why=why,
        ),
    )
    return draft.command()


def drop_palette(study: Study, palette_id: int) -> Command:
    """A kept palette goes; the Daybook still tells of it."""
    row = study.row("palettes", palette_id)
    draft = Draft(study, tr("Let go of {name}", name=row["name"]))
    draft.remove("palettes", row)
    draft.tell("verdict", tr("{name} was let go", name=row["name"]))
    return draft.command()


# ---- wanted colours


def wanted_lists(study: Study) -> dict[str, list[Wanted]]:
    """The lists of wanted colours, each in its order."""
    result: dict[str, list[Wanted]] = {}
    for row in study.rows("targets", order="list, place, id"):
        result.setdefault(row["list"], []).append(
            Wanted(row["name"], (row["L"], row["a"], row["b"]), row["id"])
        )
    return result


def add_wanted(study: Study, name: str, colours: Sequence[Wanted]) -> Command:
    """Wanted colours to a list, which is begun where it is not there yet.

    Raises
    ------
    CulmoError
        when the list has no name, or would hold too many
    """
    name = _check_title(name, tr("the list"))
    if not colours:
        raise CulmoError(tr("there is no colour to add"))
    there = study.rows("targets", "list = ?", (name,))
    if len(there) + len(colours) > MOST_WANTED:
        raise CulmoError(
            tr(
                "the list would hold {value} colours; {MOST_WANTED} is the most",
                value=len(there) + len(colours),
                MOST_WANTED=MOST_WANTED,
            )
        )
    draft = Draft(study, tr("Add to {name}", name=name) if there else tr("Begin {name}", name=name))
    first = max((row["place"] for row in there), default=-1) + 1
    for place, colour in enumerate(colours, first):
        L, a, b = (float(value) for value in check_lab(np.array(colour.lab, dtype=float)))
        draft.add("targets", list=name, name=colour.name.strip()[:NAME_LIMIT], L=L, a=a, b=b, place=place)
    count = len(colours)
    draft.tell(
        "wanted",
        trn("{n} colour wanted for {name}", "{n} colours wanted for {name}", count, name=name),
    )
    return draft.command()


def set_wanted(study: Study, name: str, colours: Sequence[Wanted], before: Sequence[int] = ()) -> Command:
    """A list as it was edited: colours with an id of `before` change, the others come, those of `before` that are
    missing go.

    Raises
    ------
    CulmoError
        as `add_wanted`
    """
    if not before:
        return add_wanted(study, name, colours)
    name = _check_title(name, tr("the list"))
    if len(colours) > MOST_WANTED:
        raise CulmoError(
            tr(
                "the list would hold {n} colours; {MOST_WANTED} is the most",
                n=len(colours),
                MOST_WANTED=MOST_WANTED,
            )
        )
    draft = Draft(study, tr("Edit {name}", name=name))
    stay = {colour.id for colour in colours}
    for wanted_id in before:
        if wanted_id not in stay:
            draft.remove("targets", study.row("targets", wanted_id))
    for place, colour in enumerate(colours):
        L, a, b = (float(value) for value in check_lab(np.array(colour.lab, dtype=float)))
        values = {"name": colour.name.strip()[:NAME_LIMIT], "L": L, "a": a, "b": b, "place": place}
        if colour.id in before:
            draft.edit("targets", colour.id, **values)
        else:
            draft.add("targets", list=name, **values)
    if draft.changes:
        draft.tell("wanted", tr("The colours wanted for {name} were edited", name=name))
    return draft.command()
