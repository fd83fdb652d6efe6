"""What a button does and by which key, from the one table of actions."""

from collections.abc import Iterable

from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QAbstractButton

from culmo.desk.widgets import as_tip
from culmo.words import tr

_table: dict[str, tuple[str, str]] = {}


def know(acts: Iterable[tuple[str, str, str]]) -> None:
    """Know the table: the id of each act, what it says of itself, and its key.

    The rooms' buttons ask for it here, since the table itself names what the rooms do.
    """
    _table.update({name: (words, key) for name, words, key in acts})


def tell_key(button: QAbstractButton, action_id: str) -> None:
    """Say as a button's tip what the action of the same act says of itself, with its key.

    Parameters
    ----------
    button : QAbstractButton
    action_id : str, in the table of actions

    Raises
    ------
    KeyError
        when there is no such action, or the table is not known yet
    """
    words, shortcut = _table[action_id]
    key = QKeySequence(shortcut).toString(QKeySequence.SequenceFormat.NativeText)
    button.setToolTip(as_tip(tr("{words} ({key})", words=words, key=key) if key else words))
