"""The wheel scrolls the page and changes no value that it passes over: fields take it only while they have the keys."""

from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QWidget

from culmo.desk.guard import guarded


@guarded
class _Quiet(QObject):
    """Lets a field's wheel go to what lies below it, unless the field has the keys."""

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Wheel and isinstance(watched, QWidget) and not watched.hasFocus():
            event.ignore()
            return True
        return False


def keep_quiet(*fields: QWidget) -> None:
    """Have fields take the wheel only while they have the keys.

    Parameters
    ----------
    fields : QWidget, lists that drop down, number fields, sliders
    """
    for field in fields:
        field.installEventFilter(_Quiet(field))
