"""Every kind of sheet from one call: what the window and the command line plan with."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from culmo.core.chart.board import LEAST_MM, Board, Page, best_fit, plan_board, split_board
from culmo.core.chart.cards import CardPlan, plan_cards
from culmo.core.chart.grid import GridPlan, Measure, plan_grid, rough_width_mm
from culmo.core.chart.kinds import (
    Choices,
    Knowledge,
    against_board,
    board_settings,
    families_board,
    fan_board,
    free_board,
    grid_board,
    ladder_board,
    palette_board,
)
from culmo.core.chart.papers import PAPERS
from culmo.core.chart.sheet import Label, Sheet
from culmo.core.chart.triangle import plan_triangle
from culmo.core.chart.wheel import plan_wheel
from culmo.errors import CulmoError
from culmo.words import tr


@dataclass(frozen=True)
class Kind:
    """A kind of sheet.

    Attributes
    ----------
    key, title : str
    words : str, what it is for
    """

    key: str
    title: str
    words: str


KINDS = (
    Kind("grid", tr("Grid"), tr("every paint with every paint")),
    Kind("families", tr("Two families"), tr("one family down, another across")),
    Kind("fan", tr("Fan"), tr("one paint against many, in steps")),
    Kind("ladder", tr("Ladder"), tr("two paints in given parts, each fading to clear water")),
    Kind("wheel", tr("Wheel"), tr("anchors round a circle, neighbours mixed between")),
    Kind("triangle", tr("Triangle"), tr("three paints in every proportion")),
    Kind("cards", tr("Card pages"), tr("masstone, bar, tint and tests of each paint")),
    Kind("palette", tr("Palette card"), tr("few paints, their secondaries, darks and browns")),
    Kind("against", tr("One against the box"), tr("a new paint with each of the others")),
    Kind("free", tr("Free page"), tr("strokes and touches in the order they were made")),
    Kind("keepers", tr("Keepers' page"), tr("the favourite mixes so far")),
)
KIND_KEYS = tuple(kind.key for kind in KINDS)

_BOARDS: Mapping[str, Callable[[Choices, Knowledge], Board]] = {
    "families": lambda choices, known: families_board(choices),
    "fan": fan_board,
    "ladder": ladder_board,
    "palette": lambda choices, known: palette_board(choices),
    "against": lambda choices, known: against_board(choices),
    "free": lambda choices, known: free_board(choices),
    "keepers": lambda choices, known: free_board(choices, "keepers"),
}


def plan_sheets(
    kind: str,
    choices: Choices,
    page: Page,
    known: Knowledge | None = None,
    measure: Measure = rough_width_mm,
    split: bool = False,
    codes: Mapping[str, str] | None = None,
    label_place: str = "bands",
) -> list[Sheet]:
    """The sheets of a kind: one, unless it is split or goes over pages.

    Parameters
    ----------
    kind : str, one of KIND_KEYS
    choices : Choices
    page : Page
    known : Knowledge
    measure : function of (text, size in mm) that gives a width in mm
    split : bool, whether a board may go over several sheets that join, so that cells are at least 15 mm
    codes : from paint to its codes, for cards
    label_place : str, "bands" or "cells": a grid's names beside it or in its pure cells

    Raises
    ------
    CulmoError
        saying what can not be, and what to do
    """
    known = known or Knowledge()
    if kind not in KIND_KEYS:
        raise CulmoError(tr('the kind "{kind}" must be one of {what}', kind=kind, what=", ".join(KIND_KEYS)))
    if kind == "wheel":
        return plan_wheel(choices, page, known, measure)
    if kind == "triangle":
        return [plan_triangle(choices, page, known, measure)]
    if kind == "cards":
        return _cards(choices, page, codes or {}, measure)
    plain = not (choices.split or split or page.marks or page.gutter_mm or page.note_mm)
    if kind == "grid" and plain:
        return [_grid(choices, page, measure, label_place)]
    board = grid_board(choices) if kind == "grid" else _BOARDS[kind](choices, known)
    if kind == "grid" and label_place == "cells":
        board = replace(board, row_labels=(), column_labels=())
    board = replace(board, settings=board_settings(choices))
    if not split:
        sheet = plan_board(board, page, measure)
        return [_named_inside(sheet, choices) if kind == "grid" and label_place == "cells" else sheet]
    parts = split_board(board, page, LEAST_MM, measure)
    if len(parts) == 1:
        return [plan_board(parts[0], page, measure)]
    title = page.title or board.kind.capitalize()
    return [
        plan_board(part, replace(page, title=f"{title}, {i} of {len(parts)}"), measure)
        for i, part in enumerate(parts, 1)
    ]


def _grid(choices: Choices, page: Page, measure: Measure, label_place: str) -> Sheet:
    """The plain grid, whose labels may slant and stand at both ends."""
    choices.need(2, "grid")
    inside = label_place == "cells"
    texts = choices.texts if len(choices.texts) == len(choices.paints) else ()
    plan = GridPlan(
        paints=choices.paints,
        paper=page.paper,
        title=page.title,
        orientation=page.orientation,
        tape_mm=page.tape_mm,
        gap_mm=page.gap_mm,
        cell_mm=page.cell_mm,
        square=page.square,
        step_mm=page.step_mm,
        second=choices.second,
        extra=choices.extra,
        labels=("",) * len(choices.paints) if inside else texts,
    )
    sheet = plan_grid(plan, measure)
    settings = {**sheet.settings, **page.settings(), "labels": list(texts), "label_place": label_place}
    settings["paper"] = page.settings()["paper"]
    sheet = replace(sheet, settings=settings, labels=tuple(label for label in sheet.labels if label.text))
    return _named_inside(sheet, choices) if inside else sheet


def _named_inside(sheet: Sheet, choices: Choices) -> Sheet:
    """The names in the pure cells."""
    labels = list(sheet.labels)
    for cell in sheet.cells:
        if cell.recipe.is_pure:
            x, y, _, h = cell.box_mm
            labels.append(Label(choices.text(cell.recipe.names[0]), (x + 1.0, y + h - 1.2), 0.0, 2.6))
    return replace(sheet, labels=tuple(labels))


def _cards(choices: Choices, page: Page, codes: Mapping[str, str], measure: Measure) -> list[Sheet]:
    folded = {name.casefold(): text for name, text in codes.items()}
    paints = tuple((name, folded.get(name.casefold(), "")) for name in choices.paints)
    return plan_cards(CardPlan(paints, page.paper, page.title, tape_mm=page.tape_mm), measure)


def advice(kind: str, choices: Choices, page: Page, measure: Measure = rough_width_mm) -> list[str]:
    """What to do where a board's cells come out below the least useful size.

    Parameters
    ----------
    kind : str
    choices : Choices
    page : Page
    measure : function of (text, size in mm)

    Returns
    -------
    list of str: a larger paper, fewer paints, several sheets, two families; empty where the cells are large enough
    """
    if kind in ("wheel", "triangle", "cards"):
        return []
    try:
        board = grid_board(choices) if kind == "grid" else _BOARDS[kind](choices, Knowledge())
    except CulmoError:
        return []
    if _reaches(board, page, measure):
        return []
    lines = []
    larger = [paper for paper in PAPERS if _reaches(board, replace(page, paper=paper), measure)]
    if larger:
        smallest = min(larger, key=lambda paper: paper.width_mm * paper.height_mm)
        lines.append(tr("On {name} the cells reach {LEAST_MM:g} mm.", name=smallest.name, LEAST_MM=LEAST_MM))
    if kind == "grid":
        for count in range(len(choices.paints) - 1, 1, -1):
            fewer = grid_board(replace(choices, paints=choices.paints[:count], texts=()))
            if _reaches(fewer, page, measure):
                lines.append(tr("With {count} paints they reach it on this paper.", count=count))
                break
    try:
        parts = split_board(board, page, LEAST_MM, measure)
        lines.append(tr("As {n} sheets that join they reach it.", n=len(parts)))
    except CulmoError:
        pass
    if kind == "grid" and len(choices.paints) > 7:
        lines.append(tr("Or split it by families: yellows down, blues across."))
    return lines


def _reaches(board: Board, page: Page, measure: Measure) -> bool:
    try:
        fit = best_fit(board, page, measure)
    except CulmoError:
        return False
    return min(fit.width, fit.height) >= LEAST_MM
