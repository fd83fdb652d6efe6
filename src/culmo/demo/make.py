"""Makes the demo study: a made-up studio that paints garden beetles and moths for a museum's drawer labels.

All of it is invented: the paints, the readings (from the simulated hand and instrument) and the words.
"""

from collections.abc import Sequence
from copy import deepcopy
from dataclasses import replace
from datetime import datetime, timedelta, timezone
from pathlib import Path

import numpy as np

from culmo.core.capture.read import read_sheet
from culmo.core.capture.sample import bare_paper
from culmo.core.chart.aids import Aids
from culmo.core.chart.box import BoxShape
from culmo.core.chart.order import plan_order
from culmo.core.chart.papers import Paper, find_paper
from culmo.core.chart.plans import lay_out, plan_of
from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.colour.cielab import lab_from_reflectance
from culmo.core.colour.spectral import Array
from culmo.core.paint.readings import INK, PAPER, Reading
from culmo.core.paint.recipe import FULL, Recipe, mix, parse_recipe
from culmo.data import text_width_mm
from culmo.demo.paints import CARDS, CONSIDERED, GRAIN, PAINTS, PALETTES, TRAVEL_BOX, WANTED
from culmo.demo.pictures import picture_of
from culmo.demo.sample import sample_path
from culmo.demo.simulated import Painter
from culmo.study import acts, box_acts, note_acts, paint_acts, palette_acts, records
from culmo.study.draft import Draft
from culmo.study.file import Command, Study
from culmo.study.own_tests import labels_in
from culmo.study.papers import OwnPaper, keep_paper
from culmo.study.patches import draft_patch
from culmo.study.records import sheet_record
from culmo.study.seen import kept_text
from culmo.study.traits import traits_of

TITLE = "Drawer 14, ground beetles"
_START = datetime(2026, 9, 7, 9, 30, tzinfo=timezone(timedelta(hours=2)))


class _Clock:
    """Time as the made-up studio spent it."""

    def __init__(self) -> None:
        self.at = _START

    def __call__(self) -> str:
        return self.at.isoformat(timespec="seconds")

    def pass_minutes(self, minutes: float) -> None:
        self.at += timedelta(minutes=minutes)

    def next_morning(self, days: int = 1) -> None:
        self.at = (self.at + timedelta(days=days)).replace(hour=9, minute=20, second=0)


def make_demo(folder: Path) -> Path:
    """Paint the demo study in a folder; an earlier one is replaced. What ships was made so (see `culmo.demo.sample`).

    Raises
    ------
    CulmoError
        when the folder can not be written
    """
    folder.mkdir(parents=True, exist_ok=True)
    path = sample_path(folder)
    clock = _Clock()
    with Study.building(path, TITLE, clock, over=True) as study:
        _Studio(study, clock).work()
    return path


class _Studio:
    def __init__(self, study: Study, clock: _Clock) -> None:
        self.study, self.clock = study, clock
        self.painter = Painter(list(PAINTS), np.random.default_rng(14))

    def work(self) -> None:
        """Eleven weeks of the studio."""
        self.do(
            note_acts.add_note(
                self.study, "Sample data: this studio, its paints and its readings are invented."
            )
        )
        self.fill_box()
        self.do(keep_paper(self.study, OwnPaper(find_paper("A3"))))
        self.do(keep_paper(self.study, OwnPaper(Paper("Studio block, cold-pressed", 230.0, 305.0))))
        self.clock.next_morning(2)
        eight = (
            "Lemon",
            "Scarlet",
            "Rose",
            "Ultramarine",
            "Phthalo blue",
            "Viridian",
            "Ochre",
            "Burnt sienna",
        )
        first = self.plan("First eight, wing cases", eight, "A3")
        self.paint(first, 64)
        self.clock.next_morning()
        self.read(first)
        self.photograph(first)
        self.note_wet(first, 20)
        self.judge(first)
        self.clock.next_morning(3)
        travel = self.plan("Travelling box", TRAVEL_BOX, "A4")
        self.paint(travel, 23)
        self.cards()
        self.kinds()
        self.clock.next_morning(2)
        twelve = (
            "Lemon", "Yellow", "Scarlet", "Rose", "Crimson", "Ultramarine", "Cobalt", "Phthalo blue", "Viridian",
            "Ochre", "Burnt sienna", "Neutral",
        )  # fmt: skip
        self.plan("Twelve by twelve, second half pale", twelve, "A3")
        self.do(
            note_acts.add_note(self.study, "The museum wants the cream card left bare round each beetle.")
        )
        self.weigh()

    def weigh(self) -> None:
        """The colours of the beetle plate, and two small palettes of which the studio can not yet leave one."""
        self.clock.next_morning(2)
        mixes = [(name, parse_recipe(text)) for name, text in WANTED]
        colours = [palette_acts.Wanted(name, self.look(recipe)) for name, recipe in mixes]
        self.do(palette_acts.add_wanted(self.study, "Beetle plate", colours))
        for name, paints, purpose, reason in PALETTES:
            self.do(palette_acts.keep_palette(self.study, name, paints, purpose, reason))
            self.clock.next_morning(1)

    def kinds(self) -> None:
        """A ladder, painted and read in its boxes, and a wheel that is planned."""
        self.clock.next_morning(1)
        (ladder,) = self.laid_out(
            "ladder", paints=("Ultramarine", "Burnt sienna"), parts="100/75/60/50/40/25/0", wet=True, paper="A4",
            title="Ultramarine to burnt sienna",
        )  # fmt: skip
        ladder_id = self.keep(self.ordered(ladder))
        self.paint(ladder_id, len(ladder.cells))
        self.clock.next_morning()
        for entry in sheet_record(self.study, ladder_id).cells:
            if entry.cell.fade_mm is None:
                self.look_at(ladder_id, entry.id, entry.cell)
        self.photograph(ladder_id)
        anchors = ("Lemon", "Scarlet", "Rose", "Ultramarine", "Phthalo blue", "Viridian")
        (wheel,) = self.laid_out(
            "wheel",
            paints=anchors,
            rings=("full", "tint"),
            centre="all",
            paper="A3",
            title="Six anchors, twelve places",
        )
        self.keep(self.ordered(wheel))

    def laid_out(self, kind: str, **given: object) -> list[Sheet]:
        codes = {paint.name.casefold(): paint.codes for paint in PAINTS}
        return lay_out(plan_of(kind, given), Aids(text_width_mm, codes=codes))

    def ordered(self, sheet: Sheet) -> Sheet:
        """A sheet with its order of work, by what the painter knows of the paints."""
        names = [paint.name for paint in PAINTS]
        light = {
            name.casefold(): float(lab_from_reflectance(self.painter.reflectance(mix([name])))[0])
            for name in names
        }
        paints = records.paints(self.study)
        traits = traits_of(paints, labels_in(self.study, paints, None))
        return plan_order(sheet, None, replace(traits, lightness=light))

    def keep(self, sheet: Sheet) -> int:
        self.do(acts.add_sheet(self.study, sheet))
        return int(self.study.next_id("sheets")) - 1

    def cards(self) -> None:
        """A page of cards, painted, lifted, and two looks at the window."""
        self.clock.next_morning(2)
        sheet = self.ordered(self.laid_out("cards", paints=CARDS, paper="A4", title="Cards, six to test")[0])
        sheet_id = self.keep(sheet)
        self.paint(sheet_id, len(sheet.cells))
        self.clock.next_morning()
        for entry in sheet_record(self.study, sheet_id).cells:
            if entry.cell.fade_mm is None and entry.cell.treatment not in ("covered", "exposed"):
                self.look_at(sheet_id, entry.id, entry.cell)
        self.look_at_bands(sheet_id)
        self.photograph(sheet_id)
        self.note_wet(sheet_id, 12)
        self.do(box_acts.start_fade(self.study, sheet_id, "south window, first floor"))
        fade_id = int(self.study.next_id("fades")) - 1
        for weeks, days in ((1, 7), (2, 7)):
            self.clock.next_morning(days)
            for entry in sheet_record(self.study, sheet_id).cells:
                if entry.cell.treatment in ("covered", "exposed"):
                    self.look_at(sheet_id, entry.id, entry.cell, weeks)
        self.do(box_acts.end_fade(self.study, fade_id))

    def look_at_bands(self, sheet_id: int) -> None:
        """The full ends of bands, read aside: what else is drawn by lot stays as it is."""
        hand, record = deepcopy(self.painter), sheet_record(self.study, sheet_id)
        incoming = []
        for entry in record.cells:
            if entry.cell.fade_mm is not None:
                L, a, b = (round(float(value), 1) for value in hand.paint(entry.cell.recipe))
                incoming.append(acts.Incoming(Reading(entry.cell.recipe, (min(L, 100.0), a, b)), entry.id))
        self.study.apply(acts.add_readings(self.study, incoming, record.sheet.title, sheet_id))

    def look_at(self, sheet_id: int, cell_id: int, cell: Cell, weeks: int = 0) -> None:
        if cell.treatment:
            lab = self.painter.treated(cell.recipe.names[0], cell.treatment, weeks)
            L, a, b = (round(float(value), 1) for value in lab)
        else:
            L, a, b = self.look(cell.recipe, cell.ground)
        self.study.apply(acts.read_cell(self.study, sheet_id, cell_id, (min(L, 100.0), a, b)))

    def note_wet(self, sheet_id: int, count: int) -> None:
        """The wet looks of some cells, as they were noted at the table, a minute after each was painted."""
        now, noted = self.clock.at, 0
        read = records.read_cells(self.study, sheet_id)
        for entry in sorted(sheet_record(self.study, sheet_id).cells, key=lambda entry: entry.cell.order):
            row, stroke = read.get(entry.id), self.study.rows("strokes", "cell_id = ?", (entry.id,))
            plain = entry.cell.ground == PAPER and not entry.cell.treatment and not entry.cell.mixing
            plain = plain and entry.cell.fade_mm is None
            if row is None or not stroke or not plain or noted >= count:
                continue
            self.clock.at = datetime.fromisoformat(stroke[-1]["at"]) + timedelta(minutes=1)
            wet = np.array([row["L"], row["a"], row["b"]]) - self.painter.drying(entry.cell.recipe)
            L, a, b = (round(float(value), 1) for value in wet)
            self.study.apply(acts.read_cell(self.study, sheet_id, entry.id, (max(L, 0.0), a, b), wet=True))
            noted += 1
        self.clock.at = now

    def do(self, command: Command) -> None:
        self.study.apply(command)
        self.clock.pass_minutes(1)

    def fill_box(self) -> None:
        bare = [Reading(Recipe(), self.look(Recipe(), ground), ground) for ground in (PAPER, INK)]
        self.do(
            acts.add_readings(
                self.study, [acts.Incoming(reading) for reading in bare], "the bare paper and ink"
            )
        )
        for paint in PAINTS:
            full, tint = mix([paint.name]), mix([paint.name], wash=0.2)
            card = [
                Reading(full, self.look(full)),
                Reading(tint, self.look(tint)),
                Reading(full, self.look(full, INK), INK),
            ]
            entry = acts.PaintEntry(paint.name, paint.codes, grain=round(GRAIN[paint.name.casefold()], 2))
            self.do(acts.add_paint(self.study, entry, card))
        considered = [acts.PaintEntry(name, codes, "wished") for name, codes in CONSIDERED]
        self.do(box_acts.add_paints(self.study, considered))
        names = [paint.name for paint in PAINTS]
        self.add_box("Studio box", 3, 6, names)
        self.add_box("Travelling box", 2, 4, TRAVEL_BOX)

    def look(
        self, recipe: Recipe, ground: str = PAPER, puddle: Array | None = None
    ) -> tuple[float, float, float]:
        L, a, b = (round(float(value), 1) for value in self.painter.paint(recipe, ground, puddle))
        return min(L, 100.0), a, b

    def add_box(self, name: str, rows: int, columns: int, names: Sequence[str]) -> None:
        ids = {row["name"]: row["id"] for row in self.study.rows("paints")}
        shape = BoxShape(rows, columns, {})
        self.do(box_acts.add_box(self.study, name, shape, [ids[paint] for paint in names]))

    def plan(self, title: str, names: Sequence[str], paper: str) -> int:
        (sheet,) = self.laid_out("grid", paints=tuple(names), paper=paper, title=title)
        return self.keep(self.ordered(sheet))

    def paint(self, sheet_id: int, count: int) -> None:
        record = sheet_record(self.study, sheet_id)
        begin = self.clock.at
        by_order = sorted(record.cells, key=lambda entry: entry.cell.order)
        for entry in by_order[:count]:
            self.clock.at = begin + timedelta(minutes=1.1 * (entry.cell.at_minute or 0.0))
            self.study.apply(paint_acts.paint_cell(self.study, sheet_id, entry.id))

    def read(self, sheet_id: int) -> None:
        record = sheet_record(self.study, sheet_id)
        mixed: dict[Recipe, Array] = {}  # full and pale cells of a mix are painted from one puddle
        incoming = []
        for entry in record.cells:
            recipe = entry.cell.recipe
            puddle = recipe.with_wash(FULL).key
            if puddle not in mixed:
                mixed[puddle] = self.painter.mixed()
            incoming.append(acts.Incoming(Reading(recipe, self.look(recipe, puddle=mixed[puddle])), entry.id))
        self.do(acts.add_readings(self.study, incoming, record.sheet.title, sheet_id))

    def photograph(self, sheet_id: int) -> None:
        """The real paint of what was read of a sheet, out of a picture that was taken of it then."""
        record, read = sheet_record(self.study, sheet_id), records.read_cells(self.study, sheet_id)
        rows = {entry.cell.id: read[entry.id] for entry in record.cells if entry.id in read}
        looks = {name: (row["L"], row["a"], row["b"]) for name, row in rows.items()}
        bare = bare_paper(records.bare_readings(self.study))
        photo, corners = picture_of(self.painter, record.sheet, looks, bare, sheet_id)
        reading = read_sheet(photo, record.sheet, corners, bare)
        assert reading.shot is not None
        draft, key = Draft(self.study, "A picture"), f"{sheet_id:016x}"
        seen = {entry.cell: kept_text(entry, reading.shot, key) for entry in reversed(reading.readings)}
        for cell in record.sheet.cells:
            row, patch = rows.get(cell.id), reading.patches.get(cell.id)
            if row is not None and patch is not None and seen.get(cell.id):
                draft_patch(draft, row["id"], cell, patch, seen[cell.id], row["source"], row["taken"])
        self.study.apply(draft.command())

    def judge(self, sheet_id: int) -> None:
        wanted = {
            "Ultramarine + Burnt sienna": "the blue-black of the wing cases",
            "Viridian + Burnt sienna": "coppery green, as on the ground beetle",
            "Ultramarine + Burnt sienna @ tint": "moth grey",
        }
        for entry in sheet_record(self.study, sheet_id).cells:
            words = wanted.get(str(entry.cell.recipe))
            if words:
                self.do(acts.mark_keeper(self.study, entry.id, True))
                self.do(acts.note_cell(self.study, entry.id, words))
