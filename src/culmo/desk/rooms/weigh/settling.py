"""How mixes lie on the paper, as it is asked for and told on the pages of the Weigh room."""

from enum import IntEnum

from culmo.core.paint.texture_words import Limits
from culmo.core.palette.idea import Settling
from culmo.words import tr, trn


class GrainWish(IntEnum):
    """How a wash is to settle."""

    ANY = 0
    SMOOTH = 1
    GRANULATING = 2


GRAINS = (tr("Any grain"), tr("Smooth"), tr("Granulating"))


def settles_so(settling: Settling, grain: int, limits: Limits) -> bool:
    """Whether a mix is smooth or granulates as it is asked for, as the painter would call it."""
    if grain == GrainWish.GRANULATING:
        return settling.contrast >= limits.granulates
    return settling.contrast < limits.granulates and settling.parting < limits.separates


def grain_tip(limits: Limits) -> str:
    """From where on a mix is called granulating, for the choice."""
    return tr(
        "Granulating from {granulates:.1f} on, smooth below that and below a separation of {separates:.1f}; your marks at "
        "the table move these limits",
        granulates=limits.granulates, separates=limits.separates,
    )  # fmt: skip


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
