"""A paint of which only the pigment codes are known, as it will most likely look: while it is being typed."""

from functools import lru_cache

from culmo.core.paint.estimate import learn
from culmo.core.paint.pigments import belief_of
from culmo.core.paint.recipe import Recipe, mix
from culmo.data import pigment_table, typical_curves
from culmo.desk.drawing.looks import Looks
from culmo.study.own_tests import typical_grain

_NAME = "typical"
STROKE: Recipe = mix([_NAME])


@lru_cache(maxsize=256)  # each key that is pressed asks again
def typical_looks(codes: str) -> Looks | None:
    """The looks of `STROKE`; None where the codes tell nothing.

    Parameters
    ----------
    codes : str, Colour Index names with plus signs between
    """
    belief = belief_of(codes, pigment_table(), typical_curves())
    if belief is None:
        return None
    grain = typical_grain(codes)
    return Looks(learn([_NAME], [], beliefs={_NAME: belief}), lambda _: grain)
