"""Side by side: two to four sheets, boxes or palettes with their places aligned."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import IntEnum, StrEnum

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.recipe import Recipe, spoken_recipe
from culmo.core.palette.lattice import Lattice
from culmo.core.palette.mixer import chroma_of
from culmo.core.palette.reach import CLASSES, class_of
from culmo.study.file import Study
from culmo.study.palette_acts import kept_palettes
from culmo.study.patches import Patch, patches_of
from culmo.study.records import read_cells, sheet_record, sheet_titles
from culmo.words import tr


class SideOrder(IntEnum):
    """By hue, mix by mix, place by place, or as they lie on the map."""

    HUE = 0
    MIX = 1
    PLACE = 2
    LIE = 3


class SideKind(StrEnum):
    """What is put beside the others."""

    SHEET = "sheet"
    PALETTE = "palette"
    BOX = "box"


MOST_THINGS = 4
CHIPS = 6
_BANDS = (100.0, 80.0, 66.0, 52.0, 40.0, 28.0, 0.0)  # from light to dark
Lab = tuple[float, float, float]


@dataclass(frozen=True)
class SideChoice:
    """Something that can be put beside others.

    Attributes
    ----------
    kind : SideKind
    key : int, the row's id; 0 for the box in use
    title : str
    """

    kind: str
    key: int
    title: str


@dataclass(frozen=True)
class SideSpot:
    """A colour of a thing.

    Attributes
    ----------
    place : str, the cell's id; empty for palettes
    recipe : Recipe
    lab : (L, a, b), as read, else as predicted
    recorded : bool
    patch : Patch, the real paint, where a picture showed it
    """

    place: str
    recipe: Recipe
    lab: Lab
    recorded: bool
    patch: Patch | None = None

    @property
    def words(self) -> str:
        """The mix, and whether it was read."""
        return f"{spoken_recipe(self.recipe)}, {tr('read') if self.recorded else tr('predicted')}"


@dataclass(frozen=True)
class Compared:
    """A sheet, a palette or a box, with its colours."""

    choice: SideChoice
    spots: list[SideSpot]
    paints: tuple[str, ...] = ()
    words: str = ""
    by_place: Mapping[str, SideSpot] = field(default_factory=dict)


def choices(study: Study, box_name: str) -> list[SideChoice]:
    """What can be put side by side: sheets, kept palettes, the box in use."""
    found = [SideChoice(SideKind.SHEET, sheet_id, title) for sheet_id, title in sheet_titles(study)]
    found += [SideChoice(SideKind.PALETTE, palette.id, palette.name) for palette in kept_palettes(study)]
    return [*found, SideChoice(SideKind.BOX, 0, box_name)]


def sheet_thing(study: Study, choice: SideChoice, estimate: Estimate | None) -> Compared:
    """A sheet with its colours: as read, else as predicted."""
    record = sheet_record(study, choice.key)
    rows = read_cells(study, choice.key)
    read = {i: (row["L"], row["a"], row["b"]) for i, row in rows.items()}
    patches = patches_of(study, [row["id"] for row in rows.values()])
    real = {i: patches[row["id"]] for i, row in rows.items() if row["id"] in patches}
    plain = [entry for entry in record.cells if entry.cell.plain and entry.cell.recipe.layers]
    unread = [entry for entry in plain if entry.id not in read]
    predicted: dict[int, Lab] = {}
    if estimate is not None:
        known = [e for e in unread if all(name.casefold() in estimate.index for name in e.cell.recipe.names)]
        if known:
            lab = predict_lab(estimate, [e.cell.recipe for e in known], [e.cell.ground for e in known])
            predicted = {
                e.id: (float(L), float(a), float(b)) for e, (L, a, b) in zip(known, lab, strict=True)
            }
    spots = [
        SideSpot(e.cell.id, e.cell.recipe, read.get(e.id) or predicted[e.id], e.id in read, real.get(e.id))
        for e in plain
        if e.id in read or e.id in predicted
    ]
    names = tuple(dict.fromkeys(name for spot in spots for name in spot.recipe.names))
    recorded = sum(spot.recorded for spot in spots)
    words = tr("{n} mixes, {recorded} read", n=len(spots), recorded=recorded)
    return Compared(choice, spots, names, words, {spot.place: spot for spot in spots})


def palette_thing(choice: SideChoice, paints: Sequence[str], lattice: Lattice) -> Compared:
    """A palette with the most vivid mix in each hue and each step of lightness."""
    wanted = {name.casefold() for name in paints}
    inside = np.array([name.casefold() in wanted for name in lattice.names])
    fits = np.asarray(inside[lattice.groups].all(axis=1))[lattice.group_of]
    rows = np.flatnonzero(fits)
    names = tuple(name for name, there in zip(lattice.names, inside, strict=True) if there)
    if not len(rows):
        return Compared(choice, [], names, tr("none of its paints is in the box in use"))
    washes = lattice.lab.shape[1]
    lab = lattice.lab[rows].reshape(-1, 3).astype(float)
    klass = class_of(lab)
    band = np.searchsorted(-np.array(_BANDS), -lab[:, 0], side="right") - 1
    slot = klass * len(_BANDS) + np.clip(band, 0, len(_BANDS) - 2)
    best: dict[int, int] = {}
    for i in np.argsort(chroma_of(lab), kind="stable"):
        best[int(slot[i])] = int(i)  # the last, most vivid one stays
    spots = [
        SideSpot(
            "", lattice.recipe(int(rows[i // washes]), i % washes), (float(L), float(a), float(b)), False
        )
        for i in best.values()
        for L, a, b in [lab[i]]
    ]
    return Compared(choice, spots, names, tr("{n} paints: {what}", n=len(names), what=", ".join(names)))


@dataclass(frozen=True)
class HueRow:
    """Colours of one hue, those of each thing from light to dark."""

    title: str
    spots: list[list[SideSpot]]


def by_hue(things: Sequence[Compared], chips: int = CHIPS) -> list[HueRow]:
    """The colours of things aligned by hue, so that the greens stand beside the greens.

    Parameters
    ----------
    things : sequence of Compared
    chips : int, how many of a hue are shown of each; the most vivid of them
    """
    sorted_out: list[dict[int, list[SideSpot]]] = []
    for thing in things:
        groups: dict[int, list[SideSpot]] = {}
        if thing.spots:
            for spot, klass in zip(
                thing.spots, class_of(np.array([s.lab for s in thing.spots])), strict=True
            ):
                groups.setdefault(int(klass), []).append(spot)
        sorted_out.append(groups)
    rows = []
    for klass, title in enumerate(CLASSES):
        columns = [_shown(groups.get(klass, []), chips) for groups in sorted_out]
        if any(columns):
            rows.append(HueRow(title, columns))
    return rows


def _shown(spots: list[SideSpot], chips: int) -> list[SideSpot]:
    vivid = sorted(spots, key=lambda spot: -float(np.hypot(*spot.lab[1:])))[:chips]
    return sorted(vivid, key=lambda spot: -spot.lab[0])


@dataclass(frozen=True)
class PlaceRow:
    """One place, or one mix, in all things.

    Attributes
    ----------
    place : str, the cell's id or the mix
    spots : a SideSpot for each thing, None where it has none
    away : float, CIEDE2000, the greatest difference from the first; nan where there is nothing to compare
    """

    place: str
    spots: list[SideSpot | None]
    away: float

    @property
    def words(self) -> str:
        """What is compared."""
        found = list(dict.fromkeys(spoken_recipe(s.recipe) for s in self.spots if s is not None))
        return " | ".join(found)


def compared(things: Sequence[Compared], by_mix: bool) -> list[PlaceRow]:
    """Things compared place by place, or mix by mix; the greatest differences first.

    Parameters
    ----------
    things : sequence of Compared, sheets
    by_mix : bool, the same mixes wherever they stand, else the same places whatever stands there
    """
    maps: list[dict[str, SideSpot]] = []
    for thing in things:
        if by_mix:
            maps.append({str(spot.recipe.key): spot for spot in thing.spots if spot.place})
        else:
            maps.append(dict(thing.by_place))
    rows = []
    for key in dict.fromkeys(key for one in maps for key in one):
        spots = [one.get(key) for one in maps]
        there = [spot for spot in spots if spot is not None]
        if len(there) < 2:
            continue
        first = np.array(there[0].lab)
        away = float(max(delta_e_00(np.array(spot.lab), first) for spot in there[1:]))
        rows.append(PlaceRow(key, spots, away))
    return sorted(rows, key=lambda row: -row.away)


def summary(things: Sequence[Compared], rows: Sequence[PlaceRow], by_mix: bool) -> str:
    """What the comparison comes to, in a sentence."""
    if len(things) < 2:
        return tr("Choose another to put beside it.")
    if not rows:
        what = tr("mix") if by_mix else tr("place")
        return tr("They have no {what} in common; by hue they can be compared all the same.", what=what)
    away = np.array([row.away for row in rows])
    kind = tr("mixes") if by_mix else tr("places")
    return tr(
        "{n} {kind} in common; the middle difference is {median:.1f}, the greatest {n2:.1f}",
        n=len(rows),
        kind=kind,
        median=np.median(away),
        n2=away.max(),
    )


_LEAST = 6.0  # a chroma below which a hue is not there


def vividness(thing: Compared) -> Array:
    """The greatest chroma of a thing in each class, (classes,) float; 0 where it has none."""
    result = np.zeros(len(CLASSES))
    if thing.spots:
        lab = np.array([spot.lab for spot in thing.spots])
        np.maximum.at(result, class_of(lab), chroma_of(lab))
    return result


def leads(things: Sequence[Compared], margin: float = 5.0) -> list[str]:
    """In which hues each thing is the most vivid by a margin, a line for each.

    Parameters
    ----------
    things : sequence of Compared
    margin : float, chroma
    """
    if len(things) < 2:
        return []
    all_of_them = np.stack([vividness(thing) for thing in things])
    lines = []
    for i, thing in enumerate(things):
        rest = np.delete(all_of_them, i, axis=0).max(axis=0)
        won = [CLASSES[k] for k in range(12) if all_of_them[i, k] > rest[k] + margin]
        quiet = [CLASSES[k] for k in range(12) if _LEAST < all_of_them[i, k] < rest[k] - margin]
        if won:
            said = tr("cleaner in {what}", what=", ".join(won))
        elif quiet:  # what is muted is praised for what it is
            said = tr("quiet in {what}", what=", ".join(quiet))
        else:
            said = tr("as clean as the others")
        lines.append(f"{thing.choice.title}: {said}")
    return lines
