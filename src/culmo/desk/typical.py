"""A paint of which only the pigment codes are known, as it will most likely look: while it is being typed."""

from functools import lru_cache

from culmo.core.paint.estimate import learn
from culmo.core.paint.pigments import typical_readings
from culmo.core.paint.recipe import Recipe, mix
from culmo.data import pigment_table
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
    known = typical_readings([(_NAME, codes)], [], pigment_table())
    if not known:
        return None
    grain = typical_grain(codes)
    return Looks(learn([_NAME], [], known), lambda _: grain)
