"""A plan: a kind of sheet with its options, on its page. What the window and the command line lay out."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from culmo.core.chart.aids import Aids
from culmo.core.chart.board import Board, best_fit, split_board
from culmo.core.chart.kind import WHITE, Kind
from culmo.core.chart.kinds import KINDS, find_kind, kind_of
from culmo.core.chart.options import Option, Options
from culmo.core.chart.page import LEAST_MM, Page
from culmo.core.chart.papers import PAPERS
from culmo.core.chart.sheet import Sheet
from culmo.core.chart.stages import is_white, staged
from culmo.errors import CulmoError
from culmo.words import tr, trn


@dataclass(frozen=True)
class Plan:
    """What sheets are made from.

    Attributes
    ----------
    kind : Kind
    options : Options, of the kind's own type
    page : Page
    """

    kind: Kind
    options: Options
    page: Page

    def settings(self) -> dict[str, Any]:
        """The plan as plain values, as a sheet keeps it."""
        return {**self.page.settings(), **self.options.settings()}


def described() -> dict[str, Option]:
    """All options that there are, the page's and those of every kind, by name; one that several kinds share is one."""
    found = dict(Page.described())
    for kind in KINDS:
        for name, own in kind.options.described().items():
            found.setdefault(name, own)
    return found


def plan_of(kind: str, given: Mapping[str, Any]) -> Plan:
    """A plan from the options of kind and page as they were typed, or as values; what does not concern the kind is left.

    Raises
    ------
    CulmoError
        when there is no such kind, or an option can not be
    """
    found = find_kind(kind)
    return Plan(found, found.options.typed(given), Page.typed({"gap_mm": found.gap_mm, **given}))


def plan_from(sheet: Sheet) -> Plan | None:
    """The plan that a sheet was made from, to be changed; None where it was made otherwise, as a map of a box is."""
    kind = kind_of(sheet)
    if kind is None:
        return None
    return Plan(kind, kind.options.of_settings(sheet.settings), Page.of_sheet(sheet))


def lay_out(plan: Plan, aids: Aids | None = None) -> list[Sheet]:
    """The sheets of a plan: one, unless it goes over several, or comes with another.

    Parameters
    ----------
    plan : Plan
    aids : Aids

    Raises
    ------
    CulmoError
        saying what can not be, and what to do
    """
    aids = aids or Aids()
    wishes, whites = plan.page.wishes(), _whites(plan, aids)
    return [
        staged(replace(sheet, settings={**plan.settings(), **sheet.settings}), wishes, whites)
        for sheet in plan.kind.sheets(plan.options, plan.page, aids)
    ]


def _whites(plan: Plan, aids: Aids) -> frozenset[str]:
    """The paints that are white: by their codes, or since the plan adds them as a white."""
    found = {name for name, codes in aids.codes.items() if is_white(codes)}
    options = plan.options
    with_white = WHITE in (getattr(options, "second", ""), *getattr(options, "rings", ()))
    if with_white and "extra" in set(options.concerned()):
        found.add(str(getattr(options, "extra", "")).casefold())
    return frozenset(found)


def advice(plan: Plan, aids: Aids | None = None) -> list[str]:
    """What to do where a board's cells come out below the least useful size.

    Returns
    -------
    list of str: a larger paper, fewer paints, several sheets, two families; empty where the cells are large enough
    """
    kind, page, aids = plan.kind, plan.page, aids or Aids()
    if kind.board is None:
        return []
    try:
        board = kind.board(plan.options, aids)
    except CulmoError:
        return []
    if _reaches(board, page, aids):
        return []
    lines = []
    larger = [paper for paper in PAPERS if _reaches(board, replace(page, paper=paper), aids)]
    if larger:
        smallest = min(larger, key=lambda paper: paper.width_mm * paper.height_mm)
        lines.append(tr("On {name} the cells reach {LEAST_MM:g} mm.", name=smallest.name, LEAST_MM=LEAST_MM))
    paints: tuple[str, ...] = getattr(plan.options, "paints", ())
    if kind.each_with_each:
        for count in range(len(paints) - 1, 1, -1):
            fewer = kind.board(replace(plan.options, paints=paints[:count]), aids)  # type: ignore[call-arg]
            if _reaches(fewer, page, aids):
                lines.append(tr("With {count} paints they reach it on this paper.", count=count))
                break
    try:
        parts = split_board(board, page, LEAST_MM, aids.measure)
        if len(parts) > 1:
            lines.append(
                trn("As {n} sheet they reach it.", "As {n} sheets that join they reach it.", len(parts))
            )
    except CulmoError:
        pass
    if kind.each_with_each and len(paints) > 7:
        lines.append(tr("Or split it by families: yellows down, blues across."))
    return lines


def _reaches(board: Board, page: Page, aids: Aids) -> bool:
    try:
        fit = best_fit(board, replace(page, cell_mm=None), aids.measure)
    except CulmoError:
        return False
    return min(fit.width, fit.height) >= LEAST_MM
