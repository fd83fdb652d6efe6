"""How mixes lie on the paper, as it is asked for and told on the pages of the Weigh room."""

from culmo.core.paint.texture import GRANULATES, PARTS
from culmo.core.palette.idea import Settling
from culmo.words import tr, trn

ANY_GRAIN, SMOOTH, GRANULATING = range(3)
GRAINS = (tr("Any grain"), tr("Smooth"), tr("Granulating"))


def settles_so(settling: Settling, grain: int) -> bool:
    """Whether a mix is smooth or granulates as it is asked for."""
    if grain == GRANULATING:
        return settling.contrast >= GRANULATES
    return settling.contrast < GRANULATES and settling.parting < PARTS


def settling_words(settling: Settling) -> str:
    """How a mix is foretold to settle, and by what that is known, in sentences."""
    told = tr(
        "Granulation {contrast:.1f} ± {contrast_off:.1f}, separation {parting:.1f} ± {parting_off:.1f}.",
        contrast=settling.contrast, contrast_off=settling.contrast_off,
        parting=settling.parting, parting_off=settling.parting_off,
    )  # fmt: skip
    if not settling.taught:
        return f"{told} {tr('No picture showed all of its paints yet: labels and the table of pigments say so.')}"
    by = trn(
        "Its least known paint was seen in {n} cell.", "Its least known paint was seen in {n} cells.",
        settling.taught,
    )  # fmt: skip
    return f"{told} {by}"
