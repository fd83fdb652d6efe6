"""What is done with a mix that was found: taken in hand, kept, copied, planned."""

from collections.abc import Callable, Sequence

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QInputDialog, QWidget

from culmo.core.chart.kinds.rows import SomeRows
from culmo.core.chart.options import SomePaints
from culmo.core.paint.recipe import Recipe, format_recipe, spoken_recipe
from culmo.desk.session import Session
from culmo.study.mix_acts import keep_mix
from culmo.words import listed, tr, trn

Begin = Callable[..., bool]


class MixActs:
    """The acts of mixes that were found.

    Parameters
    ----------
    session : Session
    parent : QWidget, over which is asked
    begin : function that begins a sheet in the Plan room: of its kind's key, and options as they would be typed
    show_paint : function that shows the Paint room
    """

    def __init__(
        self, session: Session, parent: QWidget, begin: Begin, show_paint: Callable[[], None]
    ) -> None:
        self.session, self.parent, self.begin, self._show_paint = session, parent, begin, show_paint

    def open_sheet(self, sheet_id: int) -> None:
        """Lay a sheet on the table, ready to be painted."""
        self.session.selection.select_sheet(sheet_id)
        self._show_paint()

    def take(self, recipe: Recipe) -> None:
        """Take a mix in hand, with its parts and its water."""
        self.session.selection.take(recipe)
        self.session.told.emit(tr("{what} is in hand", what=spoken_recipe(recipe)))

    def keep(self, recipe: Recipe) -> bool:
        """Keep a mix with a note; says whether it was."""
        note, done = QInputDialog.getText(
            self.parent, tr("Keep a mix"), tr("{what}: what is it good for?", what=spoken_recipe(recipe))
        )
        if done:
            with self.session.guarded():
                return self.session.do(keep_mix(self.session.file, recipe, note))
        return False

    def copy(self, recipes: Sequence[Recipe]) -> None:
        """Mixes as text, a line each: as they are said, and as they are typed."""
        lines = [f"{spoken_recipe(recipe)}\t{format_recipe(recipe)}" for recipe in recipes]
        QGuiApplication.clipboard().setText("\n".join(lines))
        self.session.told.emit(
            trn("{n} mix is on the clipboard", "{n} mixes are on the clipboard", len(lines))
        )

    def plan_ladder(self, recipe: Recipe) -> bool:
        """A ratio test of the two paints of a mix."""
        names = list(recipe.names)[:2]
        return self.begin(
            "ladder",
            paints=SomePaints().write(names),
            title=tr("{first} to {second}", first=names[0], second=names[1]),
        )

    def plan_rows(self, recipes: Sequence[Recipe]) -> bool:
        """A page of pairs in steps, a row each; each pair once."""
        pairs = {frozenset(recipe.names): tuple(recipe.names) for recipe in recipes if len(recipe.names) == 2}
        rows = [(first, second, 0) for first, second in pairs.values()]
        return self.begin(
            "rows",
            rows=SomeRows().write(rows),
            title=trn("{n} pair in steps", "{n} pairs in steps", len(rows)),
        )

    def plan_page(self, recipes: Sequence[Recipe], title: str = "") -> bool:
        """The mixes as they are, on a free page; its title tells of their paints where none is given."""
        lines = "\n".join(dict.fromkeys(format_recipe(recipe) for recipe in recipes))
        names = listed(list(dict.fromkeys(name for recipe in recipes for name in recipe.names))[:3])
        return self.begin("free", recipes=lines, title=title or tr("Mixes of {names}", names=names))
