"""What a paint's own card shows: how it covers, how it stains, how it fades; a word and the number behind it."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.readings import INK, PAPER, Reading, Treatment, Trust
from culmo.core.paint.recipe import mix
from culmo.words import tr

Lab = tuple[float, float, float]
# cover: the share of the way from the bare bar to the masstone; between the table's typical covers, in logs
_COVER_LIMITS = ((0.07, "transparent"), (0.19, "semi-transparent"), (0.44, "semi-opaque"))
# stay: the share of the film that is left on the paper
_STAY_LIMITS = ((0.25, "low"), (0.55, "medium"))
# fade: CIEDE2000 between the covered and the open half
_FADE_LIMITS = ((1.0, tr("no change seen")), (2.5, tr("hardly changed")), (5.0, tr("faded")))
_SAME, _CHANGED, _FADED = (limit for limit, _ in _FADE_LIMITS)
_TELLING_WEEKS = 13.0
# a masstone nearer to the bar's own colour tells nothing there
_LEAST_CONTRAST = 9.0
_FILMS: Array = np.geomspace(0.004, 1.0, 300)


@dataclass(frozen=True)
class Finding:
    """A property as the card shows it.

    Attributes
    ----------
    word : str, one of the table's words, or empty where the card can not tell
    number : float, what the word rests on
    text : str, both in a sentence
    """

    word: str
    number: float
    text: str


def transparency(masstone: Lab, bar: Lab, bare_ink: Lab) -> Finding:
    """How much a full wash covers a black bar.

    The masstone over the bar lies between the bare bar and the masstone on paper; the share of that way, in CIELAB,
    is how much it covers.

    Parameters
    ----------
    masstone : (L, a, b), a full wash on paper
    bar : (L, a, b), the same over the bar
    bare_ink : (L, a, b)
    """
    ink, way = np.array(bare_ink), np.array(masstone) - np.array(bare_ink)
    length = float(np.linalg.norm(way))
    if length < _LEAST_CONTRAST:
        return Finding("", 0.0, tr("as dark as the bar: a black bar can not tell how much it covers"))
    cover = float(np.clip((np.array(bar) - ink) @ way / length**2, 0.0, 1.0))
    word = next((word for limit, word in _COVER_LIMITS if cover < limit), "opaque")
    return Finding(
        word, cover, tr("{word}: covers {value:.0f} % of the bar", word=tr(word), value=100 * cover)
    )


def film_left(estimate: Estimate, name: str, after: Lab) -> float:
    """The share of a full wash that is left, from the colour after the test.

    The colour is laid on the paint's own path from bare paper to a full wash; the share is the thickness there.
    Colours alone would mislead: half of a strong film still looks nearly whole.

    Parameters
    ----------
    estimate : Estimate
    name : str, the paint
    after : (L, a, b)

    Returns
    -------
    float, 0..1
    """
    path = predict_lab(estimate, [mix([name], wash=float(film)) for film in _FILMS])
    return float(_FILMS[np.argmin(delta_e_00(path, np.array(after)))])


def staining(masstone: Lab, after: Lab, left: float, rubbed: bool) -> Finding:
    """How fast a dry paint sits, from a wetted line that was blotted, and again after rubbing.

    Parameters
    ----------
    masstone, after : (L, a, b), before and after
    left : float, 0..1, the share of the film that is left, as `film_left` gives it
    rubbed : bool, whether it was rubbed before it was blotted
    """
    word = next((word for limit, word in _STAY_LIMITS if left < limit), "high")
    off = float(np.linalg.norm(np.array(after) - np.array(masstone)))
    how = tr("after rubbing") if rubbed else tr("blotted only")
    return Finding(
        word,
        left,
        tr("{value:.0f} % stays {how}; {off:.0f} CIELAB units came off", value=100 * left, how=how, off=off),
    )


@dataclass(frozen=True)
class FadeLook:
    """One look at a fade test: weeks in the window, the covered and the open half."""

    weeks: float
    covered: Lab
    exposed: Lab

    @property
    def change(self) -> float:
        """CIEDE2000 between the halves."""
        return float(delta_e_00(np.array(self.covered), np.array(self.exposed)))


def fading(looks: Sequence[FadeLook]) -> Finding:
    """How a paint kept in the window, from the latest look.

    Parameters
    ----------
    looks : sequence of FadeLook, at least one
    """
    last = max(looks, key=lambda look: look.weeks)
    change = last.change
    word = next((word for limit, word in _FADE_LIMITS if change < limit), tr("faded strongly"))
    weeks = weeks_words(last.weeks)
    return Finding(
        word,
        change,
        tr(
            "{word} after {weeks} in the window, a difference of {change:.1f}",
            word=word,
            weeks=weeks,
            change=change,
        ),
    )


def card_transparency(
    readings: Sequence[Reading], name: str, estimate: Estimate | None = None
) -> Finding | None:
    """The transparency that a paint's card shows; None where masstone, bar or bare bar has not been read.

    With an estimate its masstone and bar are taken, which the tint and all mixes have a say in: one patch may have
    been laid a little too thick.

    Parameters
    ----------
    readings : sequence of Reading, those of the paint and of the bare ink at least
    name : str
    estimate : Estimate or None
    """
    full = mix([name]).key

    def middle(recipe_key: object, ground: str) -> Array | None:
        found = [r.lab for r in readings if r.teaches and r.ground == ground and r.recipe.key == recipe_key]
        return np.mean(found, axis=0) if found else None

    masstone, bar = middle(full, PAPER), middle(full, INK)
    ink = [r.lab for r in readings if r.teaches and r.ground == INK and not r.recipe.layers]
    if masstone is None or bar is None or not ink:
        return None
    if estimate is not None and name.casefold() in estimate.index:
        masstone, bar = predict_lab(estimate, [mix([name])] * 2, [PAPER, INK])
    return transparency(_triple(masstone), _triple(bar), _triple(np.mean(ink, axis=0)))


def card_staining(readings: Sequence[Reading], name: str, estimate: Estimate | None) -> Finding | None:
    """How a paint stains by its lift test; the rubbed patch decides where there is one.

    Parameters
    ----------
    readings : sequence of Reading, those of the paint at least
    name : str
    estimate : Estimate or None
    """
    if estimate is None or name.casefold() not in estimate.index:
        return None
    own = [
        reading
        for reading in readings
        if reading.trust == Trust.GOOD and reading.recipe.key == mix([name]).key and reading.ground == "paper"
    ]
    before = [reading for reading in own if not reading.treatment]
    for treatment in (Treatment.RUBBED, Treatment.LIFTED):
        after = [reading for reading in own if reading.treatment == treatment]
        if after and before:
            left = film_left(estimate, name, after[-1].lab)
            return staining(before[-1].lab, after[-1].lab, left, treatment == Treatment.RUBBED)
    return None


def fade_number(looks: Sequence[FadeLook]) -> float:
    """What the class rests on: the change at the latest look, in CIEDE2000."""
    return max(looks, key=lambda look: look.weeks).change


def weeks_words(weeks: float) -> str:
    """How long a fade test lay in the window."""
    return tr("1 week") if round(weeks) == 1 else tr("{weeks:.0f} weeks", weeks=weeks)


def fade_class(looks: Sequence[FadeLook]) -> str:
    """The class of lightfastness that a fade test tells; empty where it is too early to say.

    What changed is told at once, by the limits of `fading`; that nothing changed says something only after three months in
    the window, and the best only after half a year.

    Parameters
    ----------
    looks : sequence of FadeLook
    """
    if not looks:
        return ""
    last = max(looks, key=lambda look: look.weeks)
    if last.change >= _FADED:
        return "poor"
    if last.change >= _CHANGED:
        return "fair"
    if last.weeks < _TELLING_WEEKS:
        return ""
    return "excellent" if last.change < _SAME and last.weeks >= 2 * _TELLING_WEEKS else "good"


def _triple(lab: Array) -> Lab:
    L, a, b = (float(value) for value in lab)
    return L, a, b
