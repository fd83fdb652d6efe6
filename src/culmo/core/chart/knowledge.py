"""What an estimate can tell a plan: even steps, true hues, the greyest place."""

from collections.abc import Sequence

from culmo.core.chart.aids import Knowledge
from culmo.core.colour.cielab import lch_from_lab
from culmo.core.colour.spectral import Array
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.label import NEEDS
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.recipe import Recipe, mix
from culmo.core.paint.steps import even_steps
from culmo.errors import CulmoError
from culmo.words import tr

_HUE_WASH = 0.45  # a strong masstone is too dark to show its hue


def knowledge_of(estimate: Estimate) -> Knowledge:
    """The answers of an estimate.

    Parameters
    ----------
    estimate : Estimate
    """

    def check(names: Sequence[str]) -> None:
        for name in names:
            if name.casefold() not in estimate.index:
                raise CulmoError(tr('nothing is known of "{name}" yet: {needs}', name=name, needs=NEEDS))

    def even(first: str, second: str, count: int) -> list[Recipe]:
        check([first, second])
        return [step.recipe for step in even_steps(estimate, first, second, count)]

    def hue(name: str) -> float:
        check([name])
        return float(lch_from_lab(predict_lab(estimate, [mix([name], wash=_HUE_WASH)]))[0, 2])

    def lab(recipes: Sequence[Recipe]) -> Array:
        check([name for recipe in recipes for name in recipe.names])
        return predict_lab(estimate, recipes)

    return Knowledge(even, hue, lab)
