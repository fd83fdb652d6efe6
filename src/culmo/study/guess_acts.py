"""What the eye guessed: answers to questions, and pairs drawn to be painted with the guess of how they will look."""

import json
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import check_lab
from culmo.core.paint.readings import PAPER, Trust
from culmo.core.paint.recipe import Recipe, format_recipe, parse_recipe, spoken_recipe
from culmo.core.palette.guess import SEEN_RIGHT, Truth
from culmo.errors import CulmoError
from culmo.study.draft import Draft
from culmo.study.dried import dried_cells
from culmo.study.file import Command, Study
from culmo.words import tr


def add_guess(
    study: Study, kind: str, recipe: Recipe, answer: int | tuple[int, int] | tuple[str, str], away: float
) -> Command:
    """An answer to a question of Guess first.

    Parameters
    ----------
    study : Study
    kind : str, one of `guess.KINDS`
    recipe : Recipe, the truth
    answer : int, the number of the colour chosen; two int, parts; or two str, paints
    away : float, CIEDE2000 from the truth
    """
    draft = Draft(study, tr("Guess"))
    if isinstance(answer, int):
        text = str(answer)
    elif isinstance(answer[0], str):
        text = json.dumps(answer, ensure_ascii=False)
    else:
        text = f"{answer[0]}:{answer[1]}"
    draft.add(
        "guesses", at=draft.at, kind=kind, recipe=format_recipe(recipe), answer=text, away=round(away, 3)
    )
    return draft.command()


# ---- drawn pairs


@dataclass(frozen=True)
class DrawnPair:
    """A pair that was drawn to be painted, and what was guessed of it.

    Attributes
    ----------
    id : int, the row's
    at : str, ISO 8601, when it was guessed
    recipe : Recipe
    guess : (3,) float, CIELAB, what the painter thinks that it will look like
    predicted : (3,) float, CIELAB, what Culmo thought at the time; or None where that is lost
    painted : (3,) float, CIELAB, what was painted since; or None
    day : str, when it was read; empty before
    """

    id: int
    at: str
    recipe: Recipe
    guess: Array
    predicted: Array | None
    painted: Array | None = None
    day: str = ""

    @property
    def away(self) -> float | None:
        """How far the guess was off, CIEDE2000; None before it is painted."""
        return None if self.painted is None else float(delta_e_00(self.guess, self.painted))

    @property
    def predicted_away(self) -> float | None:
        """How far Culmo was off, CIEDE2000; None before it is painted."""
        if self.painted is None or self.predicted is None:
            return None
        return float(delta_e_00(self.predicted, self.painted))


def add_draw(study: Study, recipe: Recipe, guess: Array, predicted: Array) -> Command:
    """A pair to be painted, with the guess that is made before.

    Raises
    ------
    CulmoError
        when the same mix is drawn already and waits to be painted
    """
    if any(one.recipe.key == recipe.key and one.painted is None for one in drawn_pairs(study)):
        raise CulmoError(tr("{what} is drawn already", what=spoken_recipe(recipe)))
    draft = Draft(study, tr("Guess"))
    L, a, b = (float(value) for value in check_lab(np.asarray(guess, dtype=float)))
    thought = json.dumps([round(float(value), 3) for value in predicted])
    draft.add("draws", at=draft.at, recipe=format_recipe(recipe), L=L, a=a, b=b, predicted=thought)
    return draft.command()


def drop_draw(study: Study, draw_id: int) -> Command:
    """A drawn pair goes."""
    row = study.row("draws", draw_id)
    draft = Draft(study, tr("Let go of {name}", name=spoken_recipe(parse_recipe(row["recipe"]))))
    draft.remove("draws", row)
    return draft.command()


def drawn_pairs(study: Study) -> list[DrawnPair]:
    """The pairs that were drawn, the latest first, each with the first colour that was painted and read of it since.

    The painted cell answers, never a prediction: wherever it was painted, in whichever order its paints are named.
    """
    rows = study.rows("draws", order="at DESC, id DESC")
    if not rows:
        return []
    since = min(row["at"] for row in rows)
    read: dict[object, list[tuple[str, Array]]] = {}
    for row in study.select(
        """SELECT recipe, taken, L, a, b FROM readings WHERE ground = :ground AND trust = :good AND treatment = ''
            AND mixing = '' AND taken >= :since ORDER BY taken, id""",
        {"ground": PAPER, "good": Trust.GOOD, "since": since},
    ):
        lab = np.array([row["L"], row["a"], row["b"]])
        read.setdefault(parse_recipe(row["recipe"]).key, []).append((row["taken"], lab))
    found = []
    for row in rows:
        recipe = parse_recipe(row["recipe"])
        after = next(((at, lab) for at, lab in read.get(recipe.key, []) if at >= row["at"]), None)
        guess = np.array([row["L"], row["a"], row["b"]])
        found.append(
            DrawnPair(
                row["id"], row["at"], recipe, guess, _colour(row["predicted"]),
                after[1] if after else None, after[0][:10] if after else "",
            )
        )  # fmt: skip
    return found


def _colour(text: str) -> Array | None:
    """A colour kept as JSON; None where there is none."""
    try:
        lab = np.array(json.loads(text or "[]"), dtype=float)
    except (TypeError, ValueError):
        return None
    return lab if lab.shape == (3,) else None


def sheets_of_draws(study: Study, drawn: Sequence[DrawnPair]) -> dict[int, int]:
    """From the ids of drawn pairs to the sheet on which each waits, the latest.

    A cell that is read already answers to no guess made after it: only cells that are still to be read count.

    Parameters
    ----------
    study : Study
    drawn : sequence of DrawnPair
    """
    wanted = {one.recipe.key: one.id for one in drawn if one.painted is None}
    found: dict[int, int] = {}
    if not wanted:
        return found
    for row in study.select(
        """SELECT sheet_id, recipe FROM cells c WHERE ground = :ground AND INSTR(recipe, ' + ') AND NOT EXISTS
            (SELECT 1 FROM readings r WHERE r.cell_id = c.id AND r.trust = :good) ORDER BY id""",
        {"ground": PAPER, "good": Trust.GOOD},
    ):
        drawn_id = wanted.get(parse_recipe(row["recipe"]).key)
        if drawn_id is not None:
            found[drawn_id] = row["sheet_id"]
    return found


# ---- what was painted


def painted_truths(study: Study) -> list[Truth]:
    """What was painted on paper and read, each mix once with its latest dry colour, and its wet one where it was read wet.

    Only mixes of one layer from one puddle: what ran together on the paper has no parts to be guessed.
    """
    latest: dict[object, Truth] = {}
    for row in study.select(
        """SELECT r.recipe, r.L, r.a, r.b, s.title FROM readings r LEFT JOIN sheets s ON s.id = r.sheet_id
            WHERE r.ground = :ground AND r.trust = :good AND r.treatment = '' AND r.mixing = '' AND r.recipe <> '-'
            ORDER BY r.id""",
        {"ground": PAPER, "good": Trust.GOOD},
    ):
        recipe = parse_recipe(row["recipe"])
        if len(recipe.layers) == 1:
            lab = np.array([row["L"], row["a"], row["b"]])
            latest[recipe.key] = Truth(recipe, lab, True, row["title"] or "")
    for cell in dried_cells(study):  # the wet look and the dry one are of one cell
        if len(cell.recipe.layers) == 1:
            latest[cell.recipe.key] = Truth(cell.recipe, cell.dry, True, cell.title, cell.wet)
    return list(latest.values())


# ---- how the eye does


@dataclass(frozen=True)
class GuessDay:
    """How one day's guesses went.

    Attributes
    ----------
    date : str
    count : int
    away : float, the mean, CIEDE2000
    right : int, how many were right to the eye
    """

    date: str
    count: int
    away: float
    right: int


def guess_days(study: Study, drawn: Sequence[DrawnPair] = ()) -> list[GuessDay]:
    """The guesses by day, the earliest first; what was drawn and painted counts on the day that it was read.

    Parameters
    ----------
    study : Study
    drawn : sequence of DrawnPair, as `drawn_pairs` gives them
    """
    days: dict[str, list[float]] = {}
    for row in study.rows("guesses", order="at, id"):
        days.setdefault(row["at"][:10], []).append(row["away"])
    for one in drawn:
        if one.away is not None:
            days.setdefault(one.day, []).append(one.away)
    return [
        GuessDay(date, len(away), float(np.mean(away)), sum(value < SEEN_RIGHT for value in away))
        for date, away in sorted(days.items())
    ]
