"""Things go out: copied, dragged out, and asked by a menu what can be done with them; alike for all that is drawn."""

from collections.abc import Callable, Iterator, Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QMimeData, QPoint, QPointF, QSize, Qt
from PySide6.QtGui import QColor, QContextMenuEvent, QDrag, QGuiApplication, QImage, QPainter, QPixmap
from PySide6.QtWidgets import QApplication, QWidget

from culmo.desk.things import NONE, ListsThings, SaysRows, ShowsThings, Thing, row_of
from culmo.words import trn

if TYPE_CHECKING:
    from culmo.desk.session import Session

PAINT_MIME = "application/x-culmo-paint"
_PICTURE, _RATIO = QSize(240, 160), 2.0
_CHIP = QSize(96, 48)


def picture_of(thing: Thing, size: QSize, ratio: float) -> QImage | None:
    """A thing as it looks: a predicted wash, or the plain colour that was read; None where nothing is known of it."""
    wide, high = round(size.width() * ratio), round(size.height() * ratio)
    if thing.draw is not None:
        image = thing.draw(wide, high, ratio)
        ground = QImage(wide, high, QImage.Format.Format_RGB32)
        ground.fill(Qt.GlobalColor.white)
        painter = QPainter(ground)
        painter.drawImage(0, 0, image)
        painter.end()
        return ground
    if thing.lab is None:
        return None
    plain = QImage(wide, high, QImage.Format.Format_RGB32)
    plain.fill(QColor(thing.hex()))
    return plain


def as_text(things: Sequence[Thing]) -> str:
    """Things as lines, with tabs where a spreadsheet begins another column."""
    return "\n".join("\t".join(row_of(thing)).rstrip("\t") for thing in things)


def as_mime(things: Sequence[Thing]) -> QMimeData:
    """Things in each form in which another program may want them: text, a colour, a picture; and a paint for Culmo."""
    data = QMimeData()
    data.setText(as_text(things))
    if len(things) == 1:
        thing = things[0]
        if thing.lab is not None:
            data.setColorData(QColor(thing.hex()))
        picture = picture_of(thing, _PICTURE, _RATIO)
        if picture is not None:
            data.setImageData(picture)
        if thing.paint:
            data.setData(PAINT_MIME, thing.paint.encode())
    return data


def is_far(way: QPointF) -> bool:
    """Whether the hand has moved so far that it draws something away."""
    return way.manhattanLength() >= QApplication.startDragDistance()


def drag_out(widget: QWidget, pixmap: QPixmap | None = None) -> None:
    """Let the hand take what is selected in a widget out of the window, or to where Culmo asks for paints."""
    things = things_of(widget)
    if not things:
        return
    drag = QDrag(widget)
    drag.setMimeData(as_mime(things))
    if pixmap is None:
        ratio = widget.devicePixelRatioF()
        picture = picture_of(things[0], _CHIP, ratio)
        if picture is not None:
            picture.setDevicePixelRatio(ratio)
            pixmap = QPixmap.fromImage(picture)
    if pixmap is not None:
        drag.setPixmap(pixmap)
    drag.exec(Qt.DropAction.CopyAction)


def _upwards(widget: QWidget | None) -> Iterator[QWidget]:
    """A widget, then what holds it, up to the window."""
    while widget is not None:
        yield widget
        widget = None if widget.isWindow() else widget.parentWidget()


def things_of(widget: QWidget | None) -> list[Thing]:
    """What is selected in a widget, or in what holds it."""
    for holder in _upwards(widget):
        if isinstance(holder, ListsThings):
            return list(holder.selected_things())
        if isinstance(holder, ShowsThings):
            place = holder.current_thing()
            return [holder.thing(place)] if 0 <= place < holder.thing_count() else []
    return []


class GoingOut:
    """What is done with what is selected.

    Parameters
    ----------
    session : Session
    menu_of : function that shows, at a point of the screen, what can be done with what is selected
    """

    def __init__(self, session: "Session", menu_of: Callable[[QPoint], object]) -> None:
        self.session, self._menu_of = session, menu_of
        self._asked: list[Thing] | None = None  # what a menu was asked for, while it is open
        self._asked_of: QWidget | None = None

    def chosen(self) -> list[Thing]:
        """What is selected where the keys go, or what a menu was asked for."""
        return things_of(self._of) if self._asked is None else self._asked

    @property
    def _of(self) -> QWidget | None:
        """Where the keys go, or what a menu was asked for."""
        return QApplication.focusWidget() if self._asked is None else self._asked_of

    def the_mix(self) -> Thing | None:
        """The selected paint or mix, where it is one."""
        chosen = self.chosen()
        return chosen[0] if len(chosen) == 1 and chosen[0].recipe is not None else None

    def copy(self) -> None:
        """Copy in every form."""
        data = as_mime(self.chosen())
        table = next((holder for holder in _upwards(self._of) if isinstance(holder, SaysRows)), None)
        if table is not None:
            data.setText(table.rows_as_text())
        self._put(data)

    def copy_each(self, words: Callable[[Thing], str]) -> None:
        """Copy one thing about each."""
        data = QMimeData()
        data.setText("\n".join(words(thing) for thing in self.chosen()))
        self._put(data)

    def copy_picture(self) -> None:
        """Copy how the first of them looks."""
        picture = picture_of(self.chosen()[0], _PICTURE, _RATIO)
        if picture is not None:
            data = QMimeData()
            data.setImageData(picture)
            self._put(data)

    def _put(self, data: QMimeData) -> None:
        things = len(self.chosen())
        QGuiApplication.clipboard().setMimeData(data)
        self.session.told.emit(
            trn("One thing is on the clipboard", "{n} things are on the clipboard", things)
        )

    def asked_for_menu(self, event: QContextMenuEvent) -> bool:
        """Show what can be done with what is under the pointer, or selected; says whether there is anything."""
        by_key = event.reason() == QContextMenuEvent.Reason.Keyboard
        widget = QApplication.focusWidget() if by_key else QApplication.widgetAt(event.globalPos())
        for holder in _upwards(widget):
            if isinstance(holder, ShowsThings) and not by_key:
                place = holder.thing_at(QPointF(holder.mapFromGlobal(event.globalPos())))
                if place == NONE:
                    return False
                holder.choose_thing(place)
            if isinstance(holder, ShowsThings | ListsThings):
                break
        things = things_of(widget)
        if not things:
            return False
        self._asked, self._asked_of = things, widget
        try:
            self._menu_of(event.globalPos())
        finally:
            self._asked = self._asked_of = None
        return True
