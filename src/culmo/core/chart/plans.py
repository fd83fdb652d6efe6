"""A plan: a kind of sheet with its options, on its page. What the window and the command line lay out."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from culmo.core.chart.aids import Aids
from culmo.core.chart.board import Board
from culmo.core.chart.fit import EASE_WORDS, best_fit, largest_like
from culmo.core.chart.kind import Kind, SecondHalf
from culmo.core.chart.kinds import KINDS, find_kind, kind_of
from culmo.core.chart.laying import split_board
from culmo.core.chart.lengths import size_text
from culmo.core.chart.options import Option, Options, SomePaints
from culmo.core.chart.page import LEAST_MM, Page
from culmo.core.chart.papers import PAPERS, Paper
from culmo.core.chart.sheet import Sheet
from culmo.core.chart.stages import is_white, staged
from culmo.errors import CulmoError
from culmo.words import tr


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
    with_white = SecondHalf.WHITE in (getattr(options, "second", ""), *getattr(options, "rings", ()))
    if with_white and "extra" in set(options.concerned()):
        found.add(str(getattr(options, "extra", "")).casefold())
    return frozenset(found)


@dataclass(frozen=True)
class Advice:
    """What could be done where cells come out too small, or do not fit.

    Attributes
    ----------
    words : str
    given : mapping from the names of options to what would be typed to do it; empty where it is done elsewhere
    """

    words: str
    given: Mapping[str, str] = field(default_factory=dict)


def eased_words(sheets: Sequence[Sheet]) -> str:
    """What gave way for cells of the wished size, in words; empty where nothing had to."""
    keys = dict.fromkeys(
        key for sheet in sheets for key in sheet.settings.get("eased", ()) if key in EASE_WORDS
    )
    if not keys:
        return ""
    return tr("For cells of this size: {what}.", what=", ".join(EASE_WORDS[key] for key in keys))


def advice(plan: Plan, aids: Aids | None = None, owned: Sequence[Paper] = ()) -> list[Advice]:
    """What to do where a board's cells come out below the least useful size, or cells of the wished size do not fit.

    Parameters
    ----------
    plan : Plan
    aids : Aids
    owned : sequence of Paper, the painter's own

    Returns
    -------
    list of Advice: a cell of the same shape that fits, the smallest paper that takes it, fewer paints, several sheets,
    two families; empty where all is well
    """
    kind, page, aids = plan.kind, plan.page, aids or Aids()
    if kind.board is None:
        return []
    try:
        board = kind.board(plan.options, aids)
    except CulmoError:
        return []
    wish = page.cell_mm
    if _takes(board, page, aids):
        return []
    size = size_text(*(wish or (LEAST_MM, LEAST_MM)), page.unit)
    found = []
    smaller = largest_like(board, page, aids.measure)
    if smaller is not None:
        text = size_text(*smaller, page.unit)
        found.append(Advice(tr("Cells of {size} fit on this paper.", size=text), {"cell_mm": text}))
    larger = [paper for paper in (*owned, *PAPERS) if _takes(board, page, aids, paper)]
    if larger:
        smallest = min(larger, key=lambda paper: paper.width_mm * paper.height_mm)
        found.append(
            Advice(
                tr("On {name} cells of {size} fit.", name=smallest.name, size=size),
                {"paper": smallest.name},
            )
        )
    paints: tuple[str, ...] = getattr(plan.options, "paints", ())
    if kind.each_with_each:
        for count in range(len(paints) - 1, 1, -1):
            fewer = kind.board(replace(plan.options, paints=paints[:count]), aids)  # type: ignore[call-arg]
            if _takes(fewer, page, aids):
                text = SomePaints().write(paints[:count])
                found.append(
                    Advice(
                        tr("With the first {count} paints they fit on this paper.", count=count),
                        {"paints": text},
                    )
                )
                break
    try:
        parts = split_board(board, page, wish or (LEAST_MM, LEAST_MM), aids.measure)
        if len(parts) > 1 and not page.several:
            found.append(Advice(tr("As {n} sheets that join they fit.", n=len(parts)), {"several": "yes"}))
    except CulmoError:
        pass
    if kind.each_with_each and len(paints) > 7:
        found.append(Advice(tr("Or split it by families: yellows down, blues across."), {}))
    return found


def _takes(board: Board, page: Page, aids: Aids, paper: Paper | None = None) -> bool:
    """Whether a board has cells of the wished size on one paper, or of the least useful one."""
    try:
        page = page if paper is None else replace(page, paper=paper, orientation="best")
        fit = best_fit(board, page, aids.measure)
    except CulmoError:
        return False
    return page.cell_mm is not None or min(fit.width, fit.height) >= LEAST_MM
