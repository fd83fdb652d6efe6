"""What the window can do, one module a menu; menus, shortcuts and the list of keys are made from this one table."""

from culmo.desk.actions import Action
from culmo.desk.acts import edit, file, help, paint, sheet, view

ACTIONS: tuple[Action, ...] = (
    *file.ACTIONS, *edit.ACTIONS, *view.ACTIONS, *sheet.ACTIONS, *paint.ACTIONS, *help.ACTIONS,
)  # fmt: skip
