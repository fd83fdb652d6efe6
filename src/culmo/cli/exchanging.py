"""`culmo import`, `culmo export` and `culmo paints`."""

import argparse
import os
from pathlib import Path

from culmo.cli.loading import paints_in_box
from culmo.cli.output import open_study, output, run_told, say
from culmo.core.paint.estimate import Estimate
from culmo.errors import CulmoError
from culmo.study import records
from culmo.study.exchange import STUDY_FILE, exporting, study_from_folder
from culmo.study.file import Command, Study
from culmo.study.incoming import bring_in
from culmo.study.learned import Learned, learning_from
from culmo.study.own_tests import labels_in
from culmo.study.paint_rows import paint_rows, rows_csv
from culmo.study.schema import SUFFIX
from culmo.study.told import told, with_told
from culmo.study.waiting import learned_and_waiting


def run_import(options: argparse.Namespace) -> int:
    """`culmo import`."""
    wholes = [path for path in options.files if path.is_dir() or path.name == STUDY_FILE]
    if wholes:
        if len(options.files) > 1:
            raise CulmoError("a whole study comes alone; import other files afterwards")
        _check_name(options.study)
        study_from_folder(wholes[0], options.study)
        print(f"{options.study}: made from {wholes[0]}")
        return 0
    if options.new:
        _check_name(options.study)
        with Study.building(options.study, options.study.stem) as study:
            _take_in(study, options.files)
        return 0
    with open_study(options.study) as study:
        _take_in(study, options.files)
    return 0


def _take_in(study: Study, files: list[Path]) -> None:
    """All of the files, or none: what came of those before one that can not be taken is taken back."""
    done: list[Command] = []

    def do(command: Command) -> None:
        study.apply(command)
        done.append(command)

    try:
        for path in files:
            came = bring_in(study, path, lambda text: say(f"culmo: {text}"), do)
            print(f"{path}: {came}")
    except BaseException:
        for command in reversed(done):
            study.revert(command)
        if done:
            print("nothing was taken in: all of it was taken back")
        raise


def _check_name(path: Path) -> None:
    if path.suffix != SUFFIX:
        raise CulmoError(f'"{path}" is no name of a study; it must end in {SUFFIX}')


def run_export(options: argparse.Namespace) -> int:
    """`culmo export`."""
    with open_study(options.study) as study:
        plain = options.no_drawings
        written = (
            run_told(exporting(study, options.to), "writing the files")
            if plain
            else _with_drawings(study, options.to)
        )
    print(f"{options.to}: {len(written)} files")
    return 0


def _with_drawings(study: Study, folder: Path) -> list[Path]:
    """Everything, with each sheet drawn and the book, in colour as far as the paints are known."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"  # whatever is wished for the window: it is drawn to a file
    from culmo.desk.app import make_app
    from culmo.desk.drawing.whole import exporting_whole

    app = make_app()
    written = run_told(exporting_whole(study, _learned(study), folder), "writing the files")
    del app
    return written


def run_paints(options: argparse.Namespace) -> int:
    """`culmo paints`."""
    with open_study(options.study) as study:
        listed = paints_in_box(study, options.box) if options.box else records.paints(study)
        learned = _all_learned(study)
        estimate = learned.estimate if learned is not None else None
        unread = learned.unread if learned is not None else set()
        known = labels_in(study, listed, estimate)
        text = rows_csv(paint_rows(study, listed, known, estimate, unread))
    with output(options.out) as file:
        file.write(text)
    return 0


def _learned(study: Study) -> Estimate | None:
    found = _all_learned(study)
    return found.estimate if found is not None else None


def _all_learned(study: Study) -> Learned | None:
    everything = [(paint.name, paint.codes) for paint in records.paints(study, retired=True)]
    codes, _ = learned_and_waiting(study, everything)
    rows = with_told(records.reading_rows(study), told(study))
    return run_told(learning_from(codes, rows, None, None), "learning from the readings") if codes else None
