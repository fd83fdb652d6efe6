"""A strip beside the sheet in foreign pictures: how often it is found, and what it does for the colours."""

import numpy as np

from culmo.core.capture.read import read_sheet
from culmo.core.capture.settle import KnownBefore
from culmo.core.capture.strip import Strip
from culmo.errors import CulmoError
from culmo.study.pictures import photo_from_bytes
from support.beside import make_case, off_and_told
from tools.benches import show

_FIRST = 1400  # seeds that were not looked at while this was made
_FAULTS = (
    "plain", "tilted", "turned", "lens", "small", "blurred", "noisy", "compressed", "dark", "bright", "corners dark",
    "light from a side", "two lights", "lamp", "soft shadow", "gleam", "buckled", "striped table", "cluttered",
    "heavy pencil",
)  # fmt: skip


def run() -> bool:
    """A sheet and a strip on one table, a picture for each fault, by another camera and light each."""
    found, lost, before, after, held = 0, 0, [], [], []
    for number, fault in enumerate(_FAULTS):
        case = make_case(_FIRST + number, fault, hard=number % 2 == 1)
        photo = photo_from_bytes(case.picture.file, "a.jpg")
        known = KnownBefore(strips=(Strip(case.strip, case.measured),))
        try:
            plain = read_sheet(photo, case.sheet, paper=case.paper)
            reading = read_sheet(photo, case.sheet, paper=case.paper, known=known)
        except CulmoError:
            lost += 1
            print(f"{fault:20} the sheet itself is not found")
            continue
        here = bool(reading.shot and reading.shot.anchors)
        found += here
        one, _ = off_and_told(case, plain)
        other, told = off_and_told(case, reading)
        print(
            f"{fault:20} {np.median(one):5.2f} -> {np.median(other):5.2f}{'' if here else '   no strip'}",
            flush=True,
        )
        if here:
            before += one.tolist()
            after += other.tolist()
            held += (other <= told).tolist()
    middles = [np.quantile(part, [0.5, 0.95]) for part in (before, after)]
    print(f"without {middles[0][0]:.2f} {middles[0][1]:.2f}, with {middles[1][0]:.2f} {middles[1][1]:.2f}")
    print(f"told holds {np.mean(held):.0%}")
    fine = show("strips not found, of the sheets that were", 1.0 - found / max(len(_FAULTS) - lost, 1), 0.15)
    return fine & show("median with the strip against without", float(middles[1][0] / middles[0][0]), 0.85)
