"""`culmo import` and `culmo export`."""

import argparse
import os
from pathlib import Path

from culmo.cli.output import say
from culmo.core.paint.estimate import Estimate, learn
from culmo.core.paint.pigments import typical_readings
from culmo.core.steps import run_through
from culmo.data import pigment_table
from culmo.errors import CulmoError
from culmo.study import records
from culmo.study.exchange import STUDY_FILE, exporting, file_name, study_from_folder
from culmo.study.file import SUFFIX, Study
from culmo.study.incoming import bring_in


def run_import(options: argparse.Namespace) -> int:
    """`culmo import`."""
    wholes = [path for path in options.files if path.is_dir() or path.name == STUDY_FILE]
    if wholes:
        if len(options.files) > 1:
            raise CulmoError("a whole study comes alone; import other files afterwards")
        if options.study.suffix != SUFFIX:
            raise CulmoError(f'"{options.study}" is no name of a study; it must end in {SUFFIX}')
        study_from_folder(wholes[0], options.study)
        print(f"{options.study}: made from {wholes[0]}")
        return 0
    with Study(options.study) as study:
        for path in options.files:
            print(f"{path}: {bring_in(study, path, lambda text: say(f'culmo: {text}'))}")
    return 0


def run_export(options: argparse.Namespace) -> int:
    """`culmo export`."""
    with Study(options.study) as study:
        written = run_through(exporting(study, options.to))
        if not options.no_drawings:
            written += _drawings(study, options.to / "sheets")
    print(f"{options.to}: {len(written)} files")
    return 0


def _drawings(study: Study, folder: Path) -> list[Path]:
    """Each sheet as PDF, SVG and PNG, in colour as far as the paints are known."""
    sheets = records.sheet_titles(study)
    if not sheets:
        return []
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from culmo.core.paint.pigments import typical_grain
    from culmo.desk.app import make_app
    from culmo.desk.drawing.export import PrintOptions, export_sheet
    from culmo.desk.drawing.looks import Looks
    from culmo.desk.drawing.seen import see
    from culmo.desk.drawing.sheet import SheetStyle

    app = make_app()
    paints = records.paints(study, retired=True)
    estimate = _learned(study, paints)
    grain = {p.name.casefold(): p.grain or typical_grain(p.codes, pigment_table()) for p in paints}
    looks = Looks(estimate, lambda name: grain.get(name, 0.05)) if estimate is not None else None
    codes = {paint.name.casefold(): paint.codes for paint in paints}
    # in the order and under the names of the open forms beside them
    numbered = sorted(sheet_id for sheet_id, _ in sheets)
    written = []
    for number, sheet_id in enumerate(numbered, 1):
        seen = see(study, sheet_id, estimate)
        style, title = SheetStyle(looks=seen.looks), seen.record.sheet.title
        for ending in (".pdf", ".svg", ".png"):
            path = folder / f"{number:02d} {file_name(title, 'sheet')}{ending}"
            export_sheet(seen.record.sheet, path, looks, style, PrintOptions(), codes)
            written.append(path)
    del app
    return written


def _learned(study: Study, paints: list[records.Paint]) -> Estimate | None:
    readings = records.readings(study)
    typical = typical_readings([(p.name, p.codes) for p in paints], readings, pigment_table())
    return learn([p.name for p in paints], readings, typical) if paints and (readings or typical) else None
