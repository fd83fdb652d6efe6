"""Where the record names paints, and how a new name is brought into all of it.

Paints are known by their names in recipes, so that any program that opens the file can read them. What holds names is
declared here, once; a test looks through every column of a rich study for a name that was left behind. The Daybook's
events are no such place: they tell what was done under the name of that day.
"""

import json
from collections.abc import Callable, Collection, Iterable

from culmo.core.chart.renaming import renamed_sheet
from culmo.core.paint.recipe import Recipe, renamed_recipe, renaming
from culmo.errors import CulmoError
from culmo.study.draft import Draft
from culmo.study.file import Study
from culmo.words import tr

Names = list[str]
_NewText = Callable[[str, str, str, Names], str]  # of (text, old name, new name, all names)


def _recipe(text: str, old: str, new: str, names: Names) -> str:
    return renamed_recipe(text, renaming(old, new))


def _lines(text: str, old: str, new: str, names: Names) -> str:
    return "\n".join(map(renaming(old, new), text.splitlines()))


def _layout(text: str, old: str, new: str, names: Names) -> str:
    before = json.loads(text)
    after = renamed_sheet(before, old, new, names)
    return text if after == before else json.dumps(after)


def _reached(text: str, old: str, new: str, names: Names) -> str:
    facts = json.loads(text)
    of = facts.get("of") if isinstance(facts, dict) else None
    if not isinstance(of, list):
        return text
    return json.dumps({**facts, "of": [renaming(old, new)(str(name)) for name in of]})


def _answered(text: str, old: str, new: str, all_names: Names) -> str:
    try:
        names = json.loads(text)
    except ValueError:
        return text  # parts, or nothing that was written by an act
    if not isinstance(names, list):
        return text  # a number
    return json.dumps([renaming(old, new)(str(name)) for name in names], ensure_ascii=False)


# table and column, and how a name stands there
NAMED: dict[tuple[str, str], _NewText] = {
    ("cells", "recipe"): _recipe,
    ("readings", "recipe"): _recipe,
    ("guesses", "recipe"): _recipe,
    ("guesses", "answer"): _answered,
    ("mixes", "recipe"): _recipe,
    ("draws", "recipe"): _recipe,
    ("palettes", "paints"): _lines,
    ("palettes", "reach"): _reached,
    ("sheets", "layout"): _layout,
}


def rename_everywhere(draft: Draft, old: str, new: str) -> None:
    """A paint's new name in all of the record, as a part of an act; the row of the paint itself is left to the act."""
    names = [str(row["name"]) for row in draft.study.rows("paints")]
    for (table, column), renamed in NAMED.items():
        rows = {row["id"]: row for row in draft.study.rows(table)}
        rows.update({row_id: row for (name, row_id), row in draft.pending() if name == table})
        for row_id, row in rows.items():
            if draft.stays(table, row_id) and row[column]:
                draft.edit(table, row_id, **{column: renamed(row[column], old, new, names)})


def known_names(study: Study, draft: Draft | None = None) -> set[str]:
    """The folded names of all paints, and of those that an act brings."""
    rows = study.rows("paints")
    if draft is not None:
        rows = [*rows, *(row for (table, _), row in draft.pending() if table == "paints")]
    return {str(row["name"]).casefold() for row in rows}


def unknown_paints(known: Collection[str], recipes: Iterable[Recipe]) -> dict[str, Recipe]:
    """The names in recipes that no paint bears, in order, each with the first recipe that names it.

    Parameters
    ----------
    known : collection of str, as `known_names` gives them
    recipes : iterable of Recipe
    """
    new: dict[str, tuple[str, Recipe]] = {}
    for recipe in recipes:
        for name in recipe.names:
            if name.strip().casefold() not in known:
                new.setdefault(name.strip().casefold(), (name.strip(), recipe))
    return dict(new.values())


def check_known(draft: Draft, recipes: Iterable[Recipe]) -> None:
    """Refuse what names a paint that is not in the study: nothing could be learned of it.

    Raises
    ------
    CulmoError
        naming the paint
    """
    for missing, recipe in unknown_paints(known_names(draft.study, draft), recipes).items():
        raise CulmoError(
            tr('recipe "{recipe}" names "{missing}", which is not in the box', recipe=recipe, missing=missing)
        )
