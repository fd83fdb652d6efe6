"""The real paint of a mix that was read, for what shows it small."""

from collections.abc import Callable
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from PySide6.QtGui import QImage

    from culmo.core.paint.recipe import Recipe
    from culmo.desk.session import Session


def real_of(
    session: "Session", recipe: "Recipe", lab: tuple[float, float, float]
) -> "Callable[[int, int, float], QImage | None] | None":
    """What draws the real paint of a mix for a size in pixels; None where no picture showed it, or plain colour is wanted.

    Parameters
    ----------
    session : Session
    recipe : Recipe
    lab : tuple of three float, CIELAB, as it was read
    """
    from culmo.core.paint.recipe import format_recipe

    looks = session.learning.looks
    if looks is None or session.study is None:
        return None
    return looks.cropping(session.real_paint.of(format_recipe(recipe), lab), lab)
