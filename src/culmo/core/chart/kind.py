"""What a kind of sheet is, and the options that several kinds share."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any

from culmo.core.chart.aids import Aids
from culmo.core.chart.board import Board
from culmo.core.chart.fit import Easing, fit_wished
from culmo.core.chart.laying import plan_board, split_board
from culmo.core.chart.lengths import LengthUnit, length_text
from culmo.core.chart.mixes import added
from culmo.core.chart.options import Flag, GivenParts, OneOf, OnePaint, Options, SomePaints, Whole, option
from culmo.core.chart.page import LEAST_MM, Page, card_place
from culmo.core.chart.sheet import BORDERED, FREE, Sheet
from culmo.core.paint.recipe import TINT, Recipe, Rename, mix
from culmo.errors import CulmoError
from culmo.words import tr

MOST_STEPS = 40


class SecondHalf(StrEnum):
    """What the other half of a grid holds."""

    PALER = "paler"
    WHITE = "white"
    DOMINANCE = "dominance"
    THIRD = "third"
    SAME = "same"
    EMPTY = "empty"


class CellSplit(StrEnum):
    """How a cell is parted."""

    WHOLE = ""
    DIAGONAL = "diagonal"
    HALVES = "halves"


class LabelledBy(StrEnum):
    """What is written for each paint."""

    NAME = "name"
    NUMBER = "number"
    CODE = "code"
    NONE = "none"


class LabelWords(OneOf):
    """What is written for each paint; files of earlier versions hold the texts themselves."""

    def of_plain(self, value: Any) -> str:
        if isinstance(value, str):
            return value
        texts = [str(text) for text in value or ()]
        if not texts:
            return LabelledBy.NAME
        if not any(texts):
            return LabelledBy.NONE
        return LabelledBy.NUMBER if texts[0] == "1" else LabelledBy.CODE

    def renamed(self, plain: Any, rename: Rename) -> Any:
        return plain if isinstance(plain, str) else SomePaints().renamed(plain, rename)


def paints_option() -> Any:
    """The paints of a sheet, in order."""
    return option(
        SomePaints(),
        (),
        tr("Paints, in order (drag to move)"),
        'names with commas between: "Rose,Lemon,Sepia"',
    )


# what may go into the second half of a grid
SECOND_WORDS: dict[str, str] = {
    SecondHalf.PALER: tr("the same mixes, paler"),
    SecondHalf.WHITE: tr("the same with a white"),
    SecondHalf.DOMINANCE: tr("the other dominance, 1:2"),
    SecondHalf.THIRD: tr("a third paint added"),
    SecondHalf.SAME: tr("the same again"),
    SecondHalf.EMPTY: tr("nothing, a half grid"),
}


def second_option(concerns: Callable[[Any], bool] | None = None) -> Any:
    """What goes into the second half of a grid."""
    listed = ", ".join(SECOND_WORDS)
    return option(
        OneOf(SECOND_WORDS), SecondHalf.PALER, tr("Second half"), f"second half: {listed}", concerns=concerns
    )


def extra_option(concerns: Callable[[Any], bool] | None = None, dark: bool = False) -> Any:
    """A white, a third paint or a dark, where the kind needs one."""
    return option(
        OnePaint(dark), "", tr("With"), "the white, third paint or dark that the kind adds", concerns=concerns
    )


def split_option() -> Any:
    """Whether a cell is two."""
    words: dict[str, str] = {
        CellSplit.WHOLE: tr("whole"),
        CellSplit.DIAGONAL: tr("split on the diagonal"),
        CellSplit.HALVES: tr("split in halves"),
    }
    return option(
        OneOf(words, {CellSplit.WHOLE: "whole"}),
        CellSplit.WHOLE,
        tr("Cells"),
        "cells whole or split",
        command="cells",
    )


def labels_option() -> Any:
    """What is written for each paint."""
    words: dict[str, str] = {
        LabelledBy.NAME: tr("names"),
        LabelledBy.NUMBER: tr("numbers"),
        LabelledBy.CODE: tr("pigment codes"),
        LabelledBy.NONE: tr("nothing"),
    }
    return option(LabelWords(words), LabelledBy.NAME, tr("Labels"), "what is written for each paint")


def steps_option(least: int = 1, first: int | None = None) -> Any:
    """How many steps."""
    return option(
        Whole(least, MOST_STEPS), 5, tr("Steps"), "of a ladder or fan; parts of a triangle", hint="5", first=first
    )  # fmt: skip


def parts_option() -> Any:
    """Given parts of a ladder or fan; even or usual ones where empty."""
    return option(
        GivenParts(), (), tr("Given parts"), "given parts: 100/75/50/25/0, or 3:1,1:1,1:3",
        hint=tr("100/75/50/25/0, or 1:1, 5 more, 1:3"),
    )  # fmt: skip


def even_option() -> Any:
    """Steps of equal perceived difference, where an estimate is at hand."""
    return option(
        Flag(), False, tr("Even steps to the eye"), "steps of equal perceived difference; needs readings"
    )


def border_option(concerns: Callable[[Any], bool] | None = None) -> Any:
    """Whether a shape that is wetted first has an edge to stop at."""
    words = {BORDERED: tr("inside a pencilled border"), FREE: tr("a drop that finds its own edge")}
    return option(
        OneOf(words, {BORDERED: "border"}), BORDERED, tr("Wet shapes"), "wet in wet: border, or free", concerns=concerns
    )  # fmt: skip


@dataclass(frozen=True)
class Kind:
    """A kind of sheet: one module of `culmo.core.chart.kinds`, which is found by itself.

    Attributes
    ----------
    place : int, among the kinds
    key : str, as in files and on the command line
    title, words : str, what it is called, and what it is for
    options : type of Options
    board : function of (options, aids) that gives a Board, or None where it has a geometry of its own
    lay_out : function of (options, page, aids) that gives its sheets; made from the board where None
    gap_mm : float, bare paper between cells, where nothing else is chosen
    without : tuple of str, options of the page that have no meaning for it
    each_with_each : bool, whether its paints stand down and across, so that fewer of them give larger cells
    cell_words : str, what the wished cell size is for it, where that is not the size of a cell
    captioned : bool, whether each cell says below it what it is
    edges_are_ruling : bool, whether what is ruled is the edges of its cells and nothing else
    about : function of a sheet that gives a line on it; paper, cell size and number of mixes where None
    way : function of a sheet that gives lines on how to go through it, or None
    ruling : function of (sheet, unit) that gives lines on how to rule circles and spokes, or None
    few : int, how many paints it is begun with, at most
    far_apart : bool, whether these come from all over the box, in its order
    begin : function of names of paints, two at least, that gives what would be typed to begin it; the paints where None
    """

    place: int
    key: str
    title: str
    words: str
    options: type[Options]
    board: Callable[[Any, Aids], Board] | None = None
    lay_out: Callable[[Any, Page, Aids], list[Sheet]] | None = None
    gap_mm: float = 0.0
    each_with_each: bool = False
    without: tuple[str, ...] = ()
    cell_words: str = ""
    captioned: bool = False
    edges_are_ruling: bool = False
    about: Callable[[Sheet], str] | None = None
    way: Callable[[Sheet], list[str]] | None = None
    ruling: Callable[[Sheet, str], list[str]] | None = None
    few: int = 12
    far_apart: bool = False
    begin: Callable[[Sequence[str]], dict[str, str]] | None = None

    def begun_with(self, names: Sequence[str]) -> dict[str, str]:
        """What would be typed to begin it with some paints, two at least."""
        if self.begin is not None:
            return self.begin(names)
        count = min(len(names), self.few)
        step = len(names) / count if self.far_apart else 1.0
        return {"paints": SomePaints().write([names[int(place * step)] for place in range(count)])}

    def concerned(self, options: Options) -> set[str]:
        """The names of the options, its own and the page's, that have a meaning for it."""
        return {*options.concerned(), *Page.described()} - set(self.without)

    def sheets(self, options: Options, page: Page, aids: Aids) -> list[Sheet]:
        """The sheets: one, unless it goes over several, or comes with another.

        Raises
        ------
        CulmoError
            saying what can not be, and what to do
        """
        if "card_mm" in self.without:
            page = replace(page, card_mm=None)
        if self.lay_out is not None:
            sheets = self.lay_out(options, page, aids)
        else:
            assert self.board is not None
            sheets = board_sheets(self.board(options, aids), page, aids)
        return [replace(sheet, card_mm=card_place(page, sheet.paper)) for sheet in sheets]


def board_sheets(board: Board, page: Page, aids: Aids) -> list[Sheet]:
    """A board on its paper, or on several that join: where that is wished and its cells would be too small.

    For cells of a wished size that one paper does not take, two that join are tried unasked.
    """
    wish, joined = page.cell_mm, False
    codes = {text: aids.codes.get(text.casefold(), "") for text in (*board.row_labels, *board.column_labels)}
    board = replace(board, shorter={text: code for text, code in codes.items() if code})
    parts = [board]
    if page.several:
        parts = split_board(board, page, wish or (LEAST_MM, LEAST_MM), aids.measure)
    elif wish is not None and fit_wished(board, page, wish, aids.measure) is None:
        found = _in_two(board, page, wish, aids)
        parts, joined = found or parts, bool(found)
    if len(parts) == 1:
        return [plan_board(parts[0], page, aids.measure)]
    title = page.title or board.title
    pages = [
        replace(page, title=tr("{title}, {value} of {n}", title=title, value=i, n=len(parts)))
        for i in range(1, len(parts) + 1)
    ]
    sheets = [plan_board(part, own, aids.measure) for part, own in zip(parts, pages, strict=True)]
    if joined:
        sheets = [
            replace(sheet, settings={"eased": [*sheet.settings.get("eased", ()), Easing.JOINED]})
            for sheet in sheets
        ]
    return sheets


def _in_two(board: Board, page: Page, wish: tuple[float, float], aids: Aids) -> list[Board]:
    """A board as two that join with cells of a wished size; nothing where it takes more."""
    try:
        parts = split_board(board, page, wish, aids.measure)
    except CulmoError:
        return []
    return parts if len(parts) == 2 else []


def about_round(sheet: Sheet) -> str:
    """A line on a sheet that is told by how wide it is, as its cells are of many sizes."""
    return tr(
        "{name}, {length} across, {n} cells, {mixes} mixes",
        name=sheet.paper.name,
        length=length_text(sheet.frame_mm[2], str(sheet.settings.get("unit", LengthUnit.MM))),
        n=len(sheet.cells),
        mixes=sum(not cell.recipe.is_pure for cell in sheet.cells),
    )


def need(paints: Sequence[str], least: int, kind: str) -> None:
    """Refuse a kind that has too few paints."""
    if len(paints) < least:
        sentences = {
            1: tr("{kind}: at least one paint is needed", kind=kind),
            2: tr("{kind}: at least two paints are needed", kind=kind),
            3: tr("{kind}: at least three paints are needed", kind=kind),
        }
        raise CulmoError(sentences[least])


def label_texts(paints: Sequence[str], labels: str, aids: Aids, before: int = 0) -> tuple[str, ...]:
    """What is written for each paint.

    Parameters
    ----------
    paints : sequence of str
    labels : str, one of NAME, NUMBER, CODE and NONE
    aids : Aids, with the codes and the painter's own numbers; a name stands where there are no codes, and paints without
        numbers are counted
    before : int, how many paints have been counted already
    """
    if labels == LabelledBy.NUMBER:
        own = aids.numbers
        return tuple(str(own.get(name.casefold(), before + at)) for at, name in enumerate(paints, 1))
    if labels == LabelledBy.CODE:
        return tuple(aids.codes.get(name.casefold()) or name for name in paints)
    return tuple(paints) if labels == LabelledBy.NAME else ("",) * len(paints)


def second_recipe(second: str, extra: str, first: str, other: str) -> Recipe | None:
    """What goes into the second half for two paints; None where it is left empty.

    Raises
    ------
    CulmoError
        when it takes a paint to add and there is none
    """
    even = mix([first, other])
    if second == SecondHalf.EMPTY:
        return None
    if second == SecondHalf.PALER:
        return even.with_wash(TINT)
    if second == SecondHalf.DOMINANCE:
        return mix([first, other], [1, 2])
    if second == SecondHalf.SAME:
        return even
    if not extra:
        raise CulmoError(tr('the second half "{second}" needs a paint to add', second=second))
    return added(even, extra)
