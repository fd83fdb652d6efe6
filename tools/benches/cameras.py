"""Cameras that do not see as the eye does, under lights that are not daylight: what is made of their pictures."""

from collections.abc import Callable

import numpy as np

from support.camera_sheets import (
    Judged,
    first_picture,
    foretold,
    fourth_picture,
    lamp_with_gaps,
    of_one_sheet,
    together,
    with_six,
    with_strip,
)
from support.foreign_cameras import GAPS
from tools.benches import show

_STUDIES = 12
_FIRST, _PICTURES = 400, 24  # seeds that were not looked at while this was made


def _table(title: str, one: Callable[[int], Judged]) -> Judged:
    found = together([one(seed) for seed in range(_FIRST, _FIRST + _PICTURES)])
    shown, off = (np.quantile(part, [0.5, 0.95]) for part in (found.shown, found.off))
    held = float(np.mean(found.off <= found.told))
    print(
        f"{title:44} as shown {shown[0]:4.1f} {shown[1]:5.1f}   as read {off[0]:5.2f} {off[1]:5.2f}   told holds {held:.0%}"
    )
    return found


def _foretold(title: str, strip: bool) -> float:
    found = [foretold(seed, strip) for seed in range(_FIRST, _FIRST + _STUDIES)]
    by_instrument, by_pictures, shown = (
        float(np.mean([getattr(one, name) for one in found]))
        for name in ("by_instrument", "by_pictures", "as_shown")
    )
    print(
        f"{title:44} by an instrument {by_instrument:.2f}, by pictures {by_pictures:.2f}, as these show it {shown:.2f}"
    )
    return by_pictures / by_instrument


def _of_one_sheet(title: str, raws: tuple[bool, ...]) -> None:
    found = [of_one_sheet(seed, raws) for seed in range(_FIRST, _FIRST + _STUDIES)]
    off = np.quantile(np.concatenate([one for one, _ in found]), [0.5, 0.95])
    predicted = float(np.mean([one for _, one in found]))
    print(f"{title:44} as read {off[0]:5.2f} {off[1]:5.2f}   predictions learned so {predicted:.2f}")


def run() -> bool:
    """Sheets of 64 cells of unknown paints, of paints that were read before, with a strip, with an instrument."""
    first = _table("a first picture, nothing known", first_picture)
    known = _table("three pictures of other sheets before", fourth_picture)
    _table("these three sheets by an instrument", lambda seed: fourth_picture(seed, True))
    strip = _table("a strip of one's own paints beside it", with_strip)
    _table("six cells by an instrument", with_six)
    look = _table("a strong look, and a strip", lambda seed: with_strip(seed, curve="strong"))
    _table("lamps with gaps", lambda seed: first_picture(seed, lights=GAPS))
    _table("lamps with gaps, and the painter says it", lamp_with_gaps)
    _table("lamps with gaps, and a strip", lambda seed: with_strip(seed, lights=GAPS))
    _table("an unusual camera", lambda seed: first_picture(seed, "odd"))
    _of_one_sheet("one picture of a sheet", (False,))
    _of_one_sheet("two pictures of it", (False, False))
    _of_one_sheet("a picture and its raw file", (False, True))
    alone = _foretold("predictions learned from two pictures", False)
    _foretold("predictions learned so, a strip in both", True)
    fine = show("first picture, median", float(np.median(first.off)), 2.5)
    fine &= show("first picture, 95 %", float(np.quantile(first.off, 0.95)), 6.0)
    fine &= show("first picture, what is told does not hold", float(np.mean(first.off > first.told)), 0.15)
    fine &= show("paints known from pictures, median", float(np.median(known.off)), 1.6)
    fine &= show("paints known from pictures, 95 %", float(np.quantile(known.off, 0.95)), 4.0)
    fine &= show("with the strip, median", float(np.median(strip.off)), 1.2)
    fine &= show("with the strip, 95 %", float(np.quantile(strip.off, 0.95)), 3.5)
    fine &= show("predictions, by pictures against by an instrument", alone, 1.3)
    return fine & show("a strong look and the strip, median", float(np.median(look.off)), 2.0)
