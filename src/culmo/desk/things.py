"""What stands on the screen as something of its own: a well, a cell of a sheet, a point of the map, a line of mixes.

A widget that shows such things says what each of them is. From that alone a screen reader tells them, and they are copied,
dragged out and asked what can be done with them, alike everywhere.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import TYPE_CHECKING, Protocol, runtime_checkable

from PySide6.QtCore import QPointF, QRectF

from culmo.core.paint.recipe import format_recipe, spoken_recipe
from culmo.words import tr

if TYPE_CHECKING:
    from PySide6.QtGui import QImage

    from culmo.core.paint.recipe import Recipe
    from culmo.desk.drawing.looks import Looks

Lab = tuple[float, float, float]
Draw = Callable[[int, int, float], "QImage"]
NONE = -1


@dataclass(frozen=True)
class Thing:
    """A paint, a mix or a colour that is shown.

    Attributes
    ----------
    name : str, as it is called where it stands
    recipe : Recipe, or None for a colour alone
    lab : (L, a, b) as it is shown by daylight, or None where nothing is known of it
    state : str, planned, painted, read ..., in the user's language
    cell_id : str, its cell on the sheet at hand; empty where it is none
    draw : function of width, height and pixels a point that draws it, or None
    """

    name: str
    recipe: "Recipe | None" = None
    lab: Lab | None = None
    state: str = ""
    cell_id: str = ""
    draw: Draw | None = field(default=None, compare=False)

    @property
    def paint(self) -> str:
        """The paint that it is, with nothing else in it; empty where it is none."""
        return self.recipe.names[0] if self.recipe is not None and self.recipe.is_pure else ""

    def told(self) -> str:
        """What it looks like and how it stands, in words."""
        colour = ""
        if self.lab is not None:
            import numpy as np

            from culmo.core.colour.cielab import lch_from_lab
            from culmo.core.colour.names import hue_word

            lightness, chroma, _ = lch_from_lab(np.array(self.lab))
            colour = tr(
                "{hue}, lightness {lightness:.0f}, chroma {chroma:.0f}",
                hue=hue_word(np.array(self.lab)), lightness=float(lightness), chroma=float(chroma),
            )  # fmt: skip
        return "; ".join(part for part in (colour, self.state) if part)

    def hex(self) -> str:
        """The nearest screen colour, such as "#c3533a"; empty where nothing is known of its colour."""
        if self.lab is None:
            return ""
        import numpy as np

        from culmo.core.colour.srgb import srgb_from_lab

        return "#" + "".join(
            f"{round(255 * float(share)):02x}" for share in srgb_from_lab(np.array(self.lab))
        )

    def numbers(self) -> str:
        """L, a and b, with a point, as programs read them; empty where nothing is known of its colour."""
        return " ".join(f"{value:.2f}" for value in self.lab) if self.lab is not None else ""

    def typed(self) -> str:
        """The recipe as it is typed, which Culmo reads again; the name of a colour alone."""
        return format_recipe(self.recipe) if self.recipe is not None else self.name


def mix_thing(
    looks: "Looks | None",
    recipe: "Recipe",
    name: str = "",
    read: Lab | None = None,
    state: str = "",
    ground: str | None = None,
) -> Thing:
    """A mix, or a paint, as it is predicted or as it was read.

    Parameters
    ----------
    looks : Looks, or None while nothing is known
    recipe : Recipe
    name : str, where it is called otherwise than by its parts
    read : (L, a, b) as read, or None
    state : str, in the user's language; predicted or read where none is given
    ground : str, what it lies on; the paper by default
    """
    known = looks is not None and bool(recipe.layers) and looks.knows(recipe)
    lab, draw = read, None
    if looks is not None and known and lab is None:
        from culmo.core.paint.predict import predict_lab
        from culmo.core.paint.readings import PAPER

        ground = ground or PAPER
        lightness, a, b = (float(v) for v in predict_lab(looks.estimate, [recipe], [ground])[0])
        lab = lightness, a, b
        # what was read is a colour alone; what is predicted has its grain
        draw = partial(_wash, looks, recipe, ground)
    said = state or (tr("read") if read is not None else tr("predicted") if lab is not None else "")
    return Thing(name or spoken_recipe(recipe), recipe, lab, said, draw=draw)


def _wash(looks: "Looks", recipe: "Recipe", ground: str, width: int, height: int, scale: float) -> "QImage":
    return looks.wash(recipe, width, height, str(recipe), scale, ground)


COLUMNS = ("name", "recipe", "L", "a", "b", "hex", "state")


def row_of(thing: Thing) -> tuple[str, ...]:
    """A thing as a row of a spreadsheet, in the order of `COLUMNS`."""
    lab = thing.numbers().split() if thing.lab is not None else ["", "", ""]
    recipe = format_recipe(thing.recipe) if thing.recipe is not None else ""
    return (thing.name, recipe, *lab, thing.hex(), thing.state)


def colour_in(row: str) -> str:
    """L, a and b as they stand in a row that was copied here; empty where it is none.

    Examples
    --------
    >>> colour_in("Rose\\tRose\\t40.00\\t60.50\\t-3.00\\t#a81d67\\tread")
    '40.00 60.50 -3.00'
    """
    cells = row.split("\t")
    numbers = cells[COLUMNS.index("L") : COLUMNS.index("b") + 1]
    try:
        return " ".join(numbers) if len(list(map(float, numbers))) == 3 else ""
    except ValueError:
        return ""


@runtime_checkable
class ShowsThings(Protocol):
    """A widget that shows things."""

    def thing_count(self) -> int:
        """How many."""

    def thing(self, place: int) -> Thing:
        """One of them, by its place."""

    def thing_rect(self, place: int) -> QRectF:
        """Where it is, in the widget."""

    def thing_at(self, at: QPointF) -> int:
        """The place of the one under a point of the widget, or `NONE`."""

    def current_thing(self) -> int:
        """The place of the selected one, or `NONE`."""

    def choose_thing(self, place: int) -> None:
        """Select one as a click on it does."""


@runtime_checkable
class ListsThings(Protocol):
    """A widget of which several things may be selected at once."""

    def selected_things(self) -> Sequence[Thing]:
        """Those that are selected."""


@runtime_checkable
class SaysRows(Protocol):
    """A table that has more to say of what is selected than its things have."""

    def rows_as_text(self) -> str:
        """The selected rows with their heads, as a spreadsheet takes them."""


class OneThing:
    """For a widget that shows a single thing: it says which, by `shown_thing`."""

    def shown_thing(self) -> Thing | None:
        """What it shows."""
        raise NotImplementedError  # each widget knows (Qt's objects can not be abstract classes)

    def thing_count(self) -> int:
        return int(self.shown_thing() is not None)

    def thing(self, place: int) -> Thing:
        found = self.shown_thing()
        assert found is not None
        return found

    def thing_rect(self, place: int) -> QRectF:
        return QRectF(self.rect())  # type: ignore[attr-defined]  # of the widget that this is

    def thing_at(self, at: QPointF) -> int:
        return 0 if self.thing_count() else NONE

    def current_thing(self) -> int:
        return 0 if self.thing_count() else NONE

    def choose_thing(self, place: int) -> None:
        """Nothing: there is no other."""
