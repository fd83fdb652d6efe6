"""Where the drafts of an earlier day stand again."""

from collections.abc import Callable
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow


def places_of_drafts(window: "MainWindow") -> dict[str, Callable[[str, str], bool]]:
    """By the kind of a draft's place, what puts it back there and says whether it stands there again."""
    # rooms are made when they are first needed; a draft needs its room
    return {
        "note": lambda _, text: window.daybook.foot.type_again(text),
        "paint": lambda which, text: window.box.slip.type_on_another_day(
            None if which == "None" else int(which), text
        ),
        "reading": lambda which, text: window.read.type_again(which, text),
        "word": lambda which, text: window.paint.word.type_again(which, text),
        "wet": lambda which, text: window.paint.wet_look.type_again(which, text),
        "scrap": lambda which, text: window.paint.scrap.type_again(which, text),
        "plan": lambda _, text: window.plan.trying.again(text),
        "list": lambda _, text: window.box_desk.keep_list(text),
    }
