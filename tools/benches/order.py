"""What an order of work costs, with all wishes on, and each wish by itself."""

import tempfile
import time
from dataclasses import replace
from pathlib import Path

from tools.benches import show
from tools.benches.speed import yardstick

_WORDS = {"stages": "stages", "light_first": "light before dark", "clean_first": "clean before staining"}


def run() -> bool:
    """Order the sample study's 12 x 12 with its pale half, by what was learned of its paints."""
    from culmo.core.chart.order import plan_order, wish_costs, work_cost
    from culmo.core.paint.estimate import learn
    from culmo.core.steps import run_through
    from culmo.demo.sample import put_sample
    from culmo.study import records
    from culmo.study.file import Study
    from culmo.study.own_tests import labels_in
    from culmo.study.traits import traits_of

    with tempfile.TemporaryDirectory() as folder:
        with Study(put_sample(Path(folder))) as study:
            paints = records.paints(study)
            estimate = learn([paint.name for paint in paints], records.readings(study), [])
            traits = traits_of(paints, labels_in(study, paints, estimate), estimate)
            sheet_id = next(i for i, title in records.sheet_titles(study) if title.startswith("Twelve"))
            sheet = records.sheet_record(study, sheet_id).sheet
        bare = replace(
            sheet, cells=tuple(replace(cell, order=0, at_minute=None) for cell in sheet.cells), work=()
        )
        start = time.perf_counter()
        ordered = plan_order(bare, None, traits)
        taken = time.perf_counter() - start
    cost = work_cost(ordered)
    fine = show("rinses of a 12 x 12 with a pale half, of row by row", cost.rinses / cost.naive_rinses, 0.6)
    fine &= show("its waiting", cost.wait_minutes, 10.0, " min")
    fine &= show("ordering it, in yardsticks", taken / yardstick(), 60.0)
    for wish in run_through(wish_costs(ordered, None, traits)):
        print(
            f"     {_WORDS[wish.wish]} costs {wish.rinses} rinses, {wish.wait_minutes:.0f} minutes of waiting, "
            f"{wish.minutes:.0f} minutes in all"
        )
    return fine
