"""Mixes that are kept though they were not painted on a sheet: found, tried on the dab, worth another day."""

from dataclasses import dataclass

from culmo.core.paint.recipe import Recipe, format_recipe, parse_recipe, spoken_recipe
from culmo.errors import CulmoError
from culmo.study.acts import mark_keeper
from culmo.study.draft import Draft
from culmo.study.file import Command, Study
from culmo.words import tr

NOTE_LIMIT = 300


@dataclass(frozen=True)
class KeptMix:
    """A mix that was kept.

    Attributes
    ----------
    id : int, the row's
    recipe : Recipe
    note : str, what it is good for
    created : str, ISO 8601
    """

    id: int
    recipe: Recipe
    note: str
    created: str


def kept_mixes_of(study: Study) -> list[KeptMix]:
    """All of them, the latest first."""
    rows = study.rows("mixes", order="created DESC, id DESC")
    return [KeptMix(row["id"], parse_recipe(row["recipe"]), row["note"], row["created"]) for row in rows]


def keep_mix(study: Study, recipe: Recipe, note: str = "") -> Command:
    """Keep a mix with a note; one that is kept already gets the note.

    Parameters
    ----------
    study : Study
    recipe : Recipe, with at least one layer, of paints of the study
    note : str, one line

    Raises
    ------
    CulmoError
        when the recipe is bare or names a paint that is not there, or nothing would change
    """
    there = {str(row["name"]).casefold() for row in study.rows("paints")}
    if not recipe.layers:
        raise CulmoError(tr("there is no mix to be kept yet"))
    for name in recipe.names:
        if name.casefold() not in there:
            raise CulmoError(tr('there is no paint "{name}"', name=name))
    note = " ".join(note.split())
    if len(note) > NOTE_LIMIT:
        raise CulmoError(tr("the note has {n} letters; {most} are the most", n=len(note), most=NOTE_LIMIT))
    said = spoken_recipe(recipe)
    own = next((row for row in study.rows("mixes") if parse_recipe(row["recipe"]).key == recipe.key), None)
    draft = Draft(study, tr("Keep the mix {what}", what=said))
    if own is None:
        draft.add("mixes", recipe=format_recipe(recipe), note=note, created=draft.at)
    elif own["note"] == note:
        raise CulmoError(tr("{what} is kept already", what=said))
    else:
        draft.edit("mixes", own["id"], note=note)
    draft.tell(
        "verdict",
        tr("{what} was kept: {note}", what=said, note=note) if note else tr("{what} was kept", what=said),
    )
    return draft.command()


def drop_mix(study: Study, mix_id: int) -> Command:
    """A kept mix goes; the Daybook still tells of it."""
    row = study.row("mixes", mix_id)
    draft = Draft(study, tr("Let go of the mix {what}", what=spoken_recipe(parse_recipe(row["recipe"]))))
    draft.remove("mixes", row)
    return draft.command()


@dataclass(frozen=True)
class MixWorth:
    """A mix worth keeping: marked on a sheet, or kept without one.

    Attributes
    ----------
    recipe : Recipe
    lab : (L, a, b) as it was read; None where it was not
    note : str
    where : str, the sheet on which it is marked; empty for one that is kept without
    mix_id : int or None, the row of a mix that is kept without a sheet
    cell_id : int or None, the row of the cell that is marked
    """

    recipe: Recipe
    lab: tuple[float, float, float] | None
    note: str
    where: str = ""
    mix_id: int | None = None
    cell_id: int | None = None


def mixes_worth_keeping(study: Study) -> list[MixWorth]:
    """All of them: those marked on sheets, the latest first, then those kept without; each mix once."""
    rows = study.select(
        """SELECT c.id, c.recipe, c.note, s.title, r.L, r.a, r.b FROM cells c JOIN sheets s ON s.id = c.sheet_id
            LEFT JOIN readings r ON r.id = (SELECT MAX(id) FROM readings WHERE cell_id = c.id AND trust <> 'wet')
            WHERE c.keeper = 1 ORDER BY r.L IS NULL, c.id DESC"""
    )
    found: dict[Recipe, MixWorth] = {}
    for row in rows:
        recipe = parse_recipe(row["recipe"])
        lab = None if row["L"] is None else (row["L"], row["a"], row["b"])
        found.setdefault(recipe.key, MixWorth(recipe, lab, row["note"], row["title"], cell_id=row["id"]))
    for kept in kept_mixes_of(study):
        found.setdefault(kept.recipe.key, MixWorth(kept.recipe, None, kept.note, mix_id=kept.id))
    return list(found.values())


def let_go_of(study: Study, worth: MixWorth) -> Command:
    """A mix is no longer worth keeping: its mark goes from its cell, or it goes from those kept without a sheet."""
    if worth.mix_id is not None:
        return drop_mix(study, worth.mix_id)
    assert worth.cell_id is not None
    return mark_keeper(study, worth.cell_id, False)
