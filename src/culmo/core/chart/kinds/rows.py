"""Free rows: strokes from a name column onwards, each row from one paint to another in as many steps as one likes."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from culmo.core.chart.aids import Aids
from culmo.core.chart.box import shortened
from culmo.core.chart.kind import (
    MOST_STEPS,
    Kind,
    even_option,
    label_texts,
    labels_option,
    steps_option,
)
from culmo.core.chart.lengths import length_text, rounded_down
from culmo.core.chart.mixes import even_mixes, in_parts
from culmo.core.chart.options import Length, Lines, Options, Whole, option, quoted_name, split_names
from culmo.core.chart.page import Page, corner_marks
from culmo.core.chart.papers import Paper
from culmo.core.chart.sheet import FREE, Cell, Ruling, Sheet, SheetText
from culmo.core.paint.recipe import Recipe, Rename
from culmo.errors import CulmoError
from culmo.words import tr

MOST_ROWS = 60
_PAD_MM, _SMALLEST_MM = 2.0, 4.0
_BETWEEN = 0.18  # of the way from row to row, what is bare between two rows at least
Row = tuple[str, str, int]


class SomeRows(Lines):
    """Pairs of paints with a number of steps, typed one a line or with semicolons between: `Lemon, Rose: 7`.

    Nought steps are as many as the sheet's own.
    """

    def check(self, value: Any, called: str) -> None:
        if len(value) > MOST_ROWS:
            raise CulmoError(
                tr("{n} rows are too many for a page; {most} is the most", n=len(value), most=MOST_ROWS)
            )
        for first, second, steps in value:
            if first.casefold() == second.casefold():
                raise CulmoError(tr('a row leads from one paint to another; "{name}" is both', name=first))
            if steps:
                Whole(2, MOST_STEPS).check(steps, called)

    def read(self, text: str, called: str) -> tuple[Row, ...]:
        pieces = [piece.strip() for line in text.splitlines() for piece in line.split(";")]
        return tuple(self._row(piece) for piece in pieces if piece)

    def _row(self, text: str) -> Row:
        head, colon, tail = text.rpartition(":")
        counted = bool(colon) and tail.strip().isdecimal()
        names = split_names(head if counted else text)
        if len(names) != 2:
            raise CulmoError(tr('"{row}" is no row: write two paints, as in Lemon, Rose: 7', row=text))
        return names[0], names[1], int(tail) if counted else 0

    def write(self, value: Any) -> str:
        return "\n".join(
            f"{quoted_name(first)}, {quoted_name(second)}" + (f": {steps}" if steps else "")
            for first, second, steps in value
        )

    def plain(self, value: Any) -> Any:
        return [list(row) for row in value]

    def of_plain(self, value: Any) -> tuple[Row, ...]:
        return tuple((str(first), str(second), int(steps)) for first, second, steps in value)

    def renamed(self, plain: Any, rename: Rename) -> Any:
        if not isinstance(plain, list | tuple):
            return plain
        return [[rename(str(first)), rename(str(second)), steps] for first, second, steps in plain]


@dataclass(frozen=True)
class RowsOptions(Options):
    """The rows, and how far they lie apart."""

    rows: tuple[Row, ...] = option(
        SomeRows(), (), tr("Rows, two paints a line"), 'of free rows: "Lemon, Rose: 7; Ochre, Cobalt"',
        hint="Lemon, Rose: 7\nOchre, Cobalt: 9",
    )  # fmt: skip
    steps: int = steps_option(least=2, first=7)
    even: bool = even_option()
    pitch_mm: float = option(
        Length(0.0, 300.0), 0.0, tr("From row to row"), "of free rows: 1in, or as far as the page gives",
        command="pitch", hint=tr("as far as the page gives"),
    )  # fmt: skip
    names_mm: float = option(
        Length(0.0, 150.0), 0.0, tr("Name column"), "of free rows: its width; that of the longest name where absent",
        command="names", hint=tr("as wide as the longest name"),
    )  # fmt: skip
    labels: str = labels_option()


def row_recipes(options: RowsOptions, row: Row, aids: Aids) -> list[Recipe]:
    """The steps of a row, both ends among them."""
    first, second, own = row
    count = own or options.steps
    if options.even:
        return even_mixes(aids.known, first, second, count)
    return [in_parts(first, second, count - 1 - i, i) for i in range(count)]


@dataclass(frozen=True)
class _Fit:
    """How the rows stand on a paper: where they begin, a stroke, and the way from row to row."""

    paper: Paper
    left: float
    top: float
    stroke: tuple[float, float]
    pitch: float


def _fit(options: RowsOptions, page: Page, paper: Paper, count: int, names: tuple[float, float]) -> _Fit:
    left, right = names
    top = page.title_mm + 2 * _PAD_MM if page.title else 0.0
    room_x = paper.width_mm - 2 * page.margin_mm - page.gutter_mm - left - right
    room_y = paper.height_mm - 2 * page.margin_mm - top - page.foot_mm
    wish = page.cell_mm
    wide = wish[0] if wish else rounded_down((room_x - (count - 1) * page.gap_mm) / count, page.step_mm)
    pitch = options.pitch_mm or room_y / len(options.rows)
    if not options.pitch_mm:
        pitch = min(pitch, (wish[1] if wish else wide * 1.2) / (1.0 - _BETWEEN))
    high = wish[1] if wish else rounded_down(min(pitch * (1.0 - _BETWEEN), pitch - page.gap_mm), page.step_mm)
    used = (len(options.rows) - 1) * pitch + high
    fits = (
        min(wide, high) >= _SMALLEST_MM
        and count * wide + (count - 1) * page.gap_mm <= room_x + 1e-6
        and used <= room_y + 1e-6
        and high <= pitch + 1e-6
    )
    y0 = page.margin_mm + top + max(0.0, room_y - used) / 2.0
    x0 = page.gutter_mm + page.margin_mm + left
    return _Fit(paper, x0, y0, (wide, high) if fits else (0.0, 0.0), pitch)


def _lay_out(options: RowsOptions, page: Page, aids: Aids) -> list[Sheet]:
    """The rows, one below the other, on the paper as it gives the longest strokes."""
    if not options.rows:
        raise CulmoError(tr("there are no rows: write two paints a line"))
    measure, size = aids.measure, page.label_mm
    paints = list(dict.fromkeys(name for first, second, _ in options.rows for name in (first, second)))
    texts = dict(zip(paints, label_texts(paints, options.labels, aids), strict=True))
    most = options.names_mm - _PAD_MM if options.names_mm else 42.0

    def written(name: str) -> str:
        return shortened(texts[name], size, max(most, 1.0), measure)

    before = max(measure(written(first), size) for first, _, _ in options.rows)
    behind = max(measure(written(second), size) for _, second, _ in options.rows)
    names = options.names_mm or before + _PAD_MM, behind + _PAD_MM
    rows = [row_recipes(options, row, aids) for row in options.rows]
    count = max(len(recipes) for recipes in rows)
    fits = [_fit(options, page, paper, count, names) for paper in page.papers()]
    best = max(fits, key=lambda fit: fit.stroke[0] * fit.stroke[1])
    if not best.stroke[0]:
        raise CulmoError(
            tr(
                '{n} rows of {count} strokes do not fit on paper "{name}", {pitch} from row to row: take a larger '
                "paper, fewer rows or steps, or let them lie closer",
                n=len(rows),
                count=count,
                name=page.paper.name,
                pitch=length_text(best.pitch, page.unit),
            )
        )
    wide, high = best.stroke
    cells, labels = [], []
    if page.title:
        short = shortened(page.title, page.title_mm, best.paper.width_mm - page.tape_mm - best.left, measure)
        labels.append(SheetText(short, (best.left, best.top - 2 * _PAD_MM), 0.0, page.title_mm))
    for at, (row, recipes) in enumerate(zip(options.rows, rows, strict=True)):
        y = best.top + at * best.pitch
        for step, recipe in enumerate(recipes):
            x = best.left + step * (wide + page.gap_mm)
            outline = (x, y), (x + wide, y), (x + wide, y + high), (x, y + high)
            cells.append(Cell(f"r{at + 1:02d}c{step + 1:02d}", outline, recipe, shape=FREE))
        base = y + high / 2 + 0.35 * size
        ends = best.left - _PAD_MM - measure(written(row[0]), size), x + wide + _PAD_MM
        labels += [
            SheetText(written(name), (end, base), 0.0, size)
            for name, end in zip(row[:2], ends, strict=True)
            if written(name)
        ]
    tops = tuple(best.top + at * best.pitch for at in range(len(rows)))
    width = count * wide + (count - 1) * page.gap_mm
    sheet = Sheet(
        title=page.title or tr("Free rows"),
        kind="rows",
        paper=best.paper,
        frame_mm=(best.left, best.top, width, tops[-1] + high - best.top),
        cells=tuple(cells),
        labels=tuple(labels),
        ruling=Ruling((best.left,), tuple(sorted({*tops, *(top + high for top in tops)}))),
        marks_mm=corner_marks(page, best.paper),
    )
    return [sheet]


def _begin(names: Sequence[str]) -> dict[str, str]:
    """A row from each paint to the next but one pair, five of them at most."""
    pairs = list(zip(names[::2], names[1::2], strict=False))[:5]
    return {"rows": "; ".join(f"{quoted_name(one)}, {quoted_name(other)}: 6" for one, other in pairs)}


KIND = Kind(
    11, "rows", tr("Free rows"), tr("strokes from one paint to another, row by row, and no grid"), RowsOptions,
    lay_out=_lay_out, gap_mm=2.0, without=("square", "round", "several"), begin=_begin,
)  # fmt: skip
