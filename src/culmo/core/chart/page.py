"""The paper that a sheet is laid out on, and how it is used: the options that every kind of sheet has."""

from dataclasses import dataclass, replace
from typing import Any, Self

from culmo.core.chart.lengths import MM_PER_INCH
from culmo.core.chart.options import (
    CellSize,
    Flag,
    Form,
    InOrder,
    Length,
    OneOf,
    Options,
    OwnLength,
    Words,
    option,
)
from culmo.core.chart.papers import Paper, find_paper
from culmo.core.chart.sheet import Box, Sheet
from culmo.core.chart.stages import STAGE_WORDS, USUAL_STAGES, Wishes
from culmo.errors import CulmoError
from culmo.words import tr

LEAST_MM = 15.0  # the least useful cell
LEAST_LETTERS_MM, MOST_LETTERS_MM = 1.8, 12.0
MARK_MM = 5.0
_AROUND_CARD_MM = 3.0


class ThePaper(Form):
    """A paper by its name or its size."""

    def read(self, text: str, called: str) -> Paper:
        return find_paper(text)

    def write(self, value: Any) -> str:
        return str(value.name)

    def plain(self, value: Any) -> Any:
        return {"name": value.name, "width_mm": value.width_mm, "height_mm": value.height_mm}

    def of_plain(self, value: Any) -> Paper:
        return Paper(str(value["name"]), float(value["width_mm"]), float(value["height_mm"]))


@dataclass(frozen=True)
class Page(Options):
    """The paper, as bought, and how it is used.

    The paper is turned where that gives larger cells. Cells are rounded down to half millimetres, or to sixteenths of an
    inch.
    """

    paper: Paper = option(
        ThePaper(), find_paper("A4"), tr("Paper"), "a name such as A3, or a size such as 240x320 or 9x12in",
        first=find_paper("A3"),
    )  # fmt: skip
    title: str = option(Words(), "", tr("Title"))
    orientation: str = option(
        OneOf(
            {"best": tr("as it fits best"), "portrait": tr("portrait"), "landscape": tr("landscape")}
        ),
        "best", tr("Lying"),
    )  # fmt: skip
    tape_mm: float = option(
        Length(0.0, 500.0), 6.0, tr("Tape margin"), "tape margin, in mm or as 1/4in", command="margin"
    )
    gap_mm: float = option(
        Length(0.0, 50.0), 0.0, tr("Gap"), "bare paper between cells; each kind has its own where absent",
        command="gap",
    )  # fmt: skip
    cell_mm: tuple[float, float] | None = option(
        CellSize(2.0), None, tr("Cell size"), "wished cell size, as 20 or 20x15; the largest where absent",
        command="cell", hint=tr("the largest that fits"),
    )  # fmt: skip
    square: bool = option(Flag(), False, tr("Square cells"), "square cells")
    round: bool = option(Flag(), False, tr("Round cells, for dabs"), "round cells, for dabs")
    unit: str = option(
        OneOf({"mm": tr("millimetres"), "in": tr("inches")}),
        "mm", tr("Unit"), "cells in whole half millimetres, or in sixteenths of an inch",
    )  # fmt: skip
    note_mm: float = option(
        Length(0.0, 200.0), 0.0, tr("Strip for notes"), "height of a strip for notes", command="note"
    )
    letters_mm: float = option(
        OwnLength(0.0, MOST_LETTERS_MM), 0.0, tr("Letters"),
        "size of the letters; by the size of the paper where 0; smaller where names have no room", command="letters",
        hint=tr("by the paper"),
    )  # fmt: skip
    gutter_mm: float = option(
        Length(0.0, 80.0),
        0.0,
        tr("Gutter"),
        "what a spiral or a fold takes at the left",
        command="gutter",
    )
    marks: bool = option(
        Flag(), False, tr("Corner marks for a picture"), "corner marks that a picture is found by"
    )
    card_mm: tuple[float, float] | None = option(
        CellSize(10.0), None, tr("Place for a card"),
        "a place at the foot for a grey or colour card, as large as its block of patches: 85x55", command="card-place",
        hint=tr("none; 85 x 55"),
    )  # fmt: skip
    several: bool = option(
        Flag(), False, tr("Over several sheets that join"),
        "several sheets that join, where cells would be under 15 mm",
    )  # fmt: skip
    stages: tuple[str, ...] = option(
        InOrder({str(stage): words for stage, words in STAGE_WORDS.items()}),
        tuple(str(stage) for stage in USUAL_STAGES), tr("Stages, in order (drag to move)"),
        f"what is painted together, one after the other: {','.join(USUAL_STAGES)}; also pale",
    )  # fmt: skip
    light_first: bool = option(
        Flag(), True, tr("Light before dark"), "in each stage light before dark; needs readings"
    )
    clean_first: bool = option(
        Flag(), True, tr("Clean before staining"), "in each stage what does not stain before what does"
    )

    def __post_init__(self) -> None:
        super().__post_init__()
        self.wishes()
        if 0.0 < self.letters_mm < LEAST_LETTERS_MM:
            raise CulmoError(
                tr(
                    "letters of {size:g} mm can not be read; {least:g} mm or more",
                    size=self.letters_mm,
                    least=LEAST_LETTERS_MM,
                )
            )
        room = min(self.paper.width_mm, self.paper.height_mm) - 2.0 * self.tape_mm - self.gutter_mm
        if room < 20.0:
            raise CulmoError(
                tr(
                    'a tape margin of {tape_mm:g} mm leaves no room on paper "{name}"',
                    tape_mm=self.tape_mm,
                    name=self.paper.name,
                )
            )

    @classmethod
    def of_sheet(cls, sheet: Sheet) -> Self:
        """The page that a sheet was laid out on."""
        found = cls.of_settings({"paper": ThePaper().plain(sheet.paper), **sheet.settings})
        return replace(found, title=sheet.title)

    def wishes(self) -> Wishes:
        """How the painter wants to go through the sheet."""
        return Wishes(self.stages, self.light_first, self.clean_first)

    @property
    def step_mm(self) -> float:
        """What a ruler can do."""
        return 0.5 if self.unit == "mm" else MM_PER_INCH / 16.0

    @property
    def margin_mm(self) -> float:
        """What is left free at each edge: the tape, and the corner marks inside it."""
        return self.tape_mm + (MARK_MM + 1.0 if self.marks else 0.0)

    @property
    def foot_mm(self) -> float:
        """What is left free below the block: a strip for notes, a place for a card."""
        return max(self.note_mm, self.card_mm[1] + 2.0 * _AROUND_CARD_MM if self.card_mm else 0.0)

    def papers(self) -> list[Paper]:
        """The paper as it may lie."""
        short, long = sorted((self.paper.width_mm, self.paper.height_mm))
        portrait = Paper(self.paper.name, short, long)
        if self.orientation == "portrait" or short == long:
            return [portrait]
        return [portrait.turned()] if self.orientation == "landscape" else [portrait.turned(), portrait]

    @property
    def label_mm(self) -> float:
        """Labels grow with the paper, so that they are read from where the sheet is looked at, or are as wished."""
        if self.letters_mm:
            return self.letters_mm
        return min(4.4, max(2.8, 4.4 * max(self.paper.width_mm, self.paper.height_mm) / 420.0))

    @property
    def title_mm(self) -> float:
        """The size of the title; none takes no room."""
        return 1.6 * self.label_mm if self.title else 0.0


def card_place(page: Page, paper: Paper) -> Box | None:
    """Where a reference card is laid on the paper as it lies, at the foot; None where none is wished.

    Raises
    ------
    CulmoError
        when it is wider than the paper
    """
    if page.card_mm is None:
        return None
    width, height = page.card_mm
    if width > paper.width_mm - 2.0 * page.margin_mm - 2.0:
        raise CulmoError(
            tr('a card {width:g} mm wide does not fit on paper "{name}"', width=width, name=paper.name)
        )
    right = paper.width_mm - page.margin_mm - 1.0
    return right - width, paper.height_mm - page.margin_mm - _AROUND_CARD_MM - height, width, height


def corner_marks(page: Page, paper: Paper) -> tuple[tuple[float, float, float], ...]:
    """Black squares in the corners of the paper as it lies, inside the tape, where they are wished: x, y and side."""
    if not page.marks:
        return ()
    near = page.tape_mm
    far_x, far_y = paper.width_mm - near - MARK_MM, paper.height_mm - near - MARK_MM
    return ((near, near, MARK_MM), (far_x, near, MARK_MM), (far_x, far_y, MARK_MM), (near, far_y, MARK_MM))
