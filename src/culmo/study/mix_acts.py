"""Mixes that are kept though they were not painted on a sheet: found, tried on the dab, worth another day."""

from dataclasses import dataclass

from culmo.core.paint.recipe import Recipe, format_recipe, parse_recipe, spoken_recipe
from culmo.errors import CulmoError
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
