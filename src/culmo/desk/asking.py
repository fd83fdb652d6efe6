"""Dialogs that ask something, and are gone with the answer."""

from PySide6.QtWidgets import QDialog


def accepted(dialog: QDialog) -> bool:
    """Show a dialog until it is answered; says whether the answer was yes. What it was asked can still be read from it."""
    done = dialog.exec() == QDialog.DialogCode.Accepted
    dialog.deleteLater()
    return done
