"""Which of two paints that repeat each other is the one to keep, and why."""

from dataclasses import dataclass

from culmo.core.paint.label import LIGHTFASTNESS, Label
from culmo.words import tr

_SIMILAR = 0.01


@dataclass(frozen=True)
class Standing:
    """What speaks for a paint.

    Attributes
    ----------
    name : str
    status : str, "owned", "sample" or "wished"
    label : Label
    loss : float, the fullness that the box would lose without it, 0..1
    """

    name: str
    status: str
    label: Label
    loss: float


def which_to_keep(first: Standing, second: Standing) -> tuple[str, str]:
    """The one to keep and the reasons; an empty name where nothing decides.

    What one owns comes before what one considers; then what keeps in the light, what the box would miss more, and a
    single pigment, which mixes more cleanly.

    Parameters
    ----------
    first, second : Standing
    """
    score = {first.name: 0.0, second.name: 0.0}
    reasons: dict[str, list[str]] = {first.name: [], second.name: []}

    def favour(one: Standing, weight: float, reason: str) -> None:
        score[one.name] += weight
        reasons[one.name].append(reason)

    for one, other in ((first, second), (second, first)):
        if one.status == "owned" and other.status != "owned":
            favour(one, 8.0, tr("you own it"))
        if (
            _light(one) is not None
            and _light(other) is not None
            and (_light(one) or 0) < (_light(other) or 0)
        ):
            favour(one, 4.0, tr("it keeps better in the light"))
        if one.loss > other.loss + _SIMILAR:
            favour(one, 2.0, tr("the box would miss its mixes more"))
        if len(one.label.codes) == 1 and len(other.label.codes) > 1:
            favour(one, 1.0, tr("it is a single pigment"))
        if not one.label.harmful and other.label.harmful:
            favour(one, 0.5, tr("its pigment is not among those listed as harmful"))
    if score[first.name] == score[second.name]:
        return "", tr("nothing speaks for either: keep the one you like")
    best = max(score, key=lambda name: score[name])
    return best, tr("keep {best}: {what}", best=best, what=", ".join(reasons[best]))


def _light(one: Standing) -> int | None:
    return LIGHTFASTNESS.index(one.label.lightfastness) if one.label.lightfastness in LIGHTFASTNESS else None
