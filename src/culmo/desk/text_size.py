"""The size of the window's text: the system's own, and larger or smaller as the painter wishes, at once."""

from collections.abc import Iterable

from PySide6.QtGui import QFontDatabase
from PySide6.QtWidgets import (
    QAbstractItemView,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QHeaderView,
    QLineEdit,
    QPlainTextEdit,
    QWidget,
)

from culmo.desk.settings import SIZES, USUAL
from culmo.desk.theme import apply_theme, follow_text, scheme_of, set_text_scale, text_scale

_USUAL_DOTS, _USUAL_POINTS = 96.0, (9.0, 12.0)
_UNBOUND = 16777215  # Qt's own largest size of a widget
_SIZES = "culmo sizes"
_STYLED = (QLineEdit, QComboBox, QAbstractSpinBox, QPlainTextEdit)


def next_size(size: int, step: int) -> int:
    """The size after another, larger or smaller; the same at the ends.

    Parameters
    ----------
    size : int, per cent
    step : int, 1 or -1
    """
    place = min(range(len(SIZES)), key=lambda place: abs(SIZES[place] - size))
    return SIZES[max(0, min(len(SIZES) - 1, place + step))]


def change_text(app: QApplication, size: int) -> None:
    """Give the window, and all of it that is there already, a size of text.

    Parameters
    ----------
    app : QApplication
    size : int, per cent of the system's size
    """
    screen = app.primaryScreen()
    dots = screen.logicalDotsPerInch() / _USUAL_DOTS if screen is not None else 1.0
    wished = max(SIZES[0], min(SIZES[-1], size)) / USUAL
    before = text_scale()
    set_text_scale(wished * system_size() * dots, dots)
    if text_scale() != before:
        apply_theme(app, scheme_of(app))
        _rescale(app.allWidgets(), before)


def system_size() -> float:
    """How large the system's own text is beside the usual; desktops differ a little without meaning anything by it."""
    points = QFontDatabase.systemFont(QFontDatabase.SystemFont.GeneralFont).pointSizeF()
    low, high = _USUAL_POINTS
    if points <= 0.0:  # it is given in pixels
        return 1.0
    return points / high if points > high else points / low if points < low else 1.0


def _rescale(widgets: Iterable[QWidget], before: float) -> None:
    """Fonts and lengths that were given to parts of the window, from one scale to the one that is in force."""
    for widget in widgets:
        follow_text(widget)
        _resize(widget, before)
        if isinstance(widget, QHeaderView):
            _resize_sections(widget, text_scale() / before)
        elif isinstance(widget, QAbstractItemView):
            widget.doItemsLayout()
        widget.updateGeometry()
        widget.update()


def _resize(widget: QWidget, before: float) -> None:
    """The bounds of a size that were set by hand: what they were at the usual size is remembered, so that none drifts."""
    if widget.objectName().startswith("qt_"):
        return  # Qt's own
    now = [widget.minimumWidth(), widget.minimumHeight(), widget.maximumWidth(), widget.maximumHeight()]
    usual, last = widget.property(_SIZES) or ([0.0] * 4, [None] * 4)
    for place, value in enumerate(now):
        if value != last[place]:  # first met, or set by somebody else since
            usual[place] = value if value in (0, _UNBOUND) else value / before
    wished = [value if value in (0, _UNBOUND) else round(value * text_scale()) for value in usual]
    if isinstance(widget, _STYLED) and now[1] != now[3]:
        wished[1] = now[1]  # the style sheet says it
    widget.setProperty(_SIZES, (usual, wished))
    if wished != now and not widget.isWindow():
        widget.setMaximumSize(_UNBOUND, _UNBOUND)
        widget.setMinimumSize(int(wished[0]), int(wished[1]))
        widget.setMaximumSize(int(wished[2]), int(wished[3]))


def _resize_sections(head: QHeaderView, ratio: float) -> None:
    """The rows and columns of a table."""
    head.setDefaultSectionSize(round(head.defaultSectionSize() * ratio))
    for place in range(head.count()):
        head.resizeSection(place, round(head.sectionSize(place) * ratio))
