"""Pictures of another world (`support.foreign_pictures`), found and read: what is found, how far off, how honestly told."""

from collections.abc import Iterable
from multiprocessing import get_context

import numpy as np

from support.foreign_pictures import FAULTS, LOOKS
from support.foreign_sheets import FAR, Judged, campaign, judge, picture_of, sheet_of
from tools.benches import show

_FIRST, _ROUNDS = 4, 2  # rounds whose pictures were not looked at while the reader was made
_COLOURLESS = "without colours"


def _one(job: tuple[str, bool, int, int]) -> Judged:
    fault, hard, number, seed = job
    picture, paper = picture_of(fault, hard, number, seed)
    return judge(picture, paper, sheet_of(number)[0], fault, hard)


def _all(part: Iterable[np.ndarray]) -> np.ndarray:
    return np.concatenate([np.zeros(0), *part])


def run() -> bool:
    """Each fault mild and hard; a table of the faults and the figures of them all."""
    # forked, it would believe in the threads of the benches before
    with get_context("spawn").Pool(2) as pool:
        found = pool.map(_one, campaign(_ROUNDS, _FIRST), chunksize=1)
    print(
        f"{'fault':18} {'found':>7} {'median':>7} {'95 %':>6} {'told':>5} {'held':>5} {'trusted':>8} {'wrongly':>8}"
    )
    thin = []
    for fault in FAULTS:
        own = [one for one in found if one.fault == fault]
        read = [one for one in own if one.found and not one.asked]
        off, told, good = (_all(getattr(one, name) for one in read) for name in ("off", "told", "good"))
        if not len(off):
            print(f"{fault:18} {sum(one.found for one in own):3}/{len(own)}")
            continue
        held = float((off <= told).mean())
        if held < 0.9 and fault not in (*LOOKS, _COLOURLESS):
            thin.append(f"{fault} {held:.0%}")
        print(
            f"{fault:18} {sum(one.found for one in own):3}/{len(own):<3} {np.median(off):7.1f} {np.quantile(off, 0.95):6.1f}"
            f" {np.median(told):5.1f} {held:5.0%} {good.mean():8.0%} {(good.astype(bool) & (off > FAR)).mean():8.1%}"
        )
    print("told holds fewer than nine in ten:", ", ".join(thin) or "nowhere")
    read = [one for one in found if one.found and not one.asked]
    plain = [one for one in read if one.fault not in (*LOOKS, _COLOURLESS)]
    off = _all(one.off for one in plain)
    wrong = _all((one.good & (one.off > FAR)).astype(float) for one in read)
    fine = show("sheets not found or not told", 1 - np.mean([one.found for one in found]), 0.05)
    elsewhere = [one.fault for one in found if not one.found and not one.asked and len(one.off)]
    print("shown at a wrong place without a question, trusted or not:", ", ".join(elsewhere) or "none")
    lost = sum(not one.found and not one.asked and bool(one.good.any()) for one in found)
    fine &= show("wrong places taken for right", lost, 0)
    fine &= show("median error without a look", float(np.median(off)), 1.8)
    fine &= show("95 % of them", float(np.quantile(off, 0.95)), 5.5)
    fine &= show("trusted cells more than 5 off, looks and all", float(wrong.mean()), 0.03)
    held = _all((one.off <= one.told).astype(float) for one in plain)
    return fine & show("cells that what is told does not hold", 1 - float(held.mean()), 0.1)
