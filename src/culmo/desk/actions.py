"""What an action is, and when it can be done."""

from collections.abc import Callable
from dataclasses import dataclass
from enum import Enum
from typing import TYPE_CHECKING

from culmo.desk.room_names import RoomName
from culmo.desk.room_specs import SPECS
from culmo.words import mark, tr

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow


class Menu(Enum):
    """The menus, in their order."""

    FILE = mark("File")
    EDIT = mark("Edit")
    VIEW = mark("View")
    SHEET = mark("Sheet")
    PAINT = mark("Paint")
    HELP = mark("Help")

    @property
    def title(self) -> str:
        """As it is called in the user's language."""
        return tr(self.value)


LIGHT_WORDS = (tr("Daylight D65"), tr("Warm lamp"), tr("Cool LED"))
ROOM_IDS = tuple(spec.id for spec in SPECS)
ROOMS = tuple(spec.title for spec in SPECS)
Run = Callable[["MainWindow"], object]
Test = Callable[["MainWindow"], bool]


def always(_: "MainWindow") -> bool:
    return True


def with_study(window: "MainWindow") -> bool:
    return window.session.study is not None


def with_sheet(window: "MainWindow") -> bool:
    return window.session.selection.sheet_id is not None


def with_trial(window: "MainWindow") -> bool:
    return window.session.study is not None and window.plan.trial is not None


def with_box(window: "MainWindow") -> bool:
    return window.session.selection.box is not None


def in_box(window: "MainWindow") -> bool:
    return window.session.study is not None and window.rooms.currentWidget() is window.box


def can_paste(window: "MainWindow") -> bool:
    return in_box(window) or (
        window.session.study is not None
        and window.rooms.currentIndex() in (RoomName.READ, RoomName.WEIGH, RoomName.DAYBOOK)
    )


def with_picture(window: "MainWindow") -> bool:
    return (
        window.session.study is not None
        and window.rooms.currentIndex() == RoomName.READ
        and window.read.trial is not None
    )


def with_paint(window: "MainWindow") -> bool:
    return in_box(window) and window.box.current_paint() is not None


def with_cell(window: "MainWindow") -> bool:
    return bool(window.state.current)


def with_thing(window: "MainWindow") -> bool:
    return bool(window.going_out.chosen())


def with_colour(window: "MainWindow") -> bool:
    return any(thing.lab is not None for thing in window.going_out.chosen())


def with_recipe(window: "MainWindow") -> bool:
    return any(thing.recipe is not None for thing in window.going_out.chosen())


def with_mix(window: "MainWindow") -> bool:
    return window.going_out.the_mix() is not None


def with_pair(window: "MainWindow") -> bool:
    thing = window.going_out.the_mix()
    return thing is not None and thing.recipe is not None and len(thing.recipe.names) == 2


def with_paints(window: "MainWindow") -> bool:
    return bool(window.session.paints)


def with_hand(window: "MainWindow") -> bool:
    return bool(window.session.selection.in_hand)


def can_undo(window: "MainWindow") -> bool:
    return window.session.undo.canUndo()


def can_redo(window: "MainWindow") -> bool:
    return window.session.undo.canRedo()


def why_not(window: "MainWindow", enabled: Test) -> str:
    """Why something can not be done now, as the painter is told who asks for it all the same.

    Parameters
    ----------
    window : MainWindow
    enabled : function of the window, which says that it can not
    """
    if window.session.study is None:
        return NO_STUDY
    return _WHY_NOT.get(enabled, tr("There is nothing here to do this with"))


NO_STUDY = tr("No study is open: begin one, open one, or look round in the sample study")
_WHY_NOT: dict[Test, str] = {
    with_sheet: tr("There is no sheet yet: plan one first (Ctrl+G)"),
    with_trial: tr("No plan is being tried: begin one with New sheet"),
    with_box: tr("All paints are in use: choose a box at the left first"),
    in_box: tr("This is done in the Box room"),
    can_paste: tr("Nothing can be pasted here: it can in the rooms Box, Read, Weigh and Daybook"),
    with_picture: tr("No picture is being read: open one in the Read room"),
    with_paint: tr("Choose a paint in the Box room first"),
    with_cell: tr("Select a cell of the sheet first"),
    with_thing: tr("Select a paint, a mix or a cell first"),
    with_colour: tr("Select something first whose colour is known"),
    with_recipe: tr("Select a paint, a mix or a cell first"),
    with_mix: tr("Select one paint, mix or cell first"),
    with_pair: tr("Select a mix of two paints first"),
    with_paints: tr("Enter paints first (Box room)"),
    with_hand: tr("Take a paint in hand first: click a well"),
    can_undo: tr("There is nothing to take back"),
    can_redo: tr("There is nothing to do again"),
}


@dataclass(frozen=True)
class Action:
    """One thing that the window can do.

    Attributes
    ----------
    id : str
    title : str, as the menu shows it
    menu : Menu
    run : function of the window
    shortcut : str
    enabled : function of the window
    checked : function of the window, whether it is in force; None for what can not be
    gap : bool, whether a line stands before it in the menu
    help : str, one sentence for the list of shortcuts
    of_thing : bool, whether it is done with a selected paint, mix or colour, and stands in the menu of those
    """

    id: str
    title: str
    menu: Menu
    run: Run
    shortcut: str = ""
    enabled: Test = always
    checked: Test | None = None
    gap: bool = False
    help: str = ""
    of_thing: bool = False


def choose_language(window: "MainWindow", code: str) -> None:
    """Speak another language, or the system's: at once, by starting again with the same study where that is safe."""
    before, window.settings.language = window.settings.language, code
    if code == before:
        return
    if window.start_again is None or window.session.safe.homeless:
        window.say(tr("The language changes when Culmo is started again"))
    else:
        window.start_again()


def choose_scheme(window: "MainWindow", choice: str) -> None:
    """Light, night, or as the system has it."""
    window.settings.scheme = choice
    window.scheme.choose(choice)


def to_light(place: int) -> Run:
    return lambda window: window.session.learning.set_light(place)


def has_light(place: int) -> Test:
    return lambda window: window.session.learning.light == place


def has_scheme(choice: str) -> Test:
    return lambda window: window.settings.scheme == choice


def speaks(code: str) -> Test:
    return lambda window: window.settings.language == code


def to_scheme(choice: str) -> Run:
    return lambda window: choose_scheme(window, choice)


def to_arrange(order: str) -> Run:
    def run(window: "MainWindow") -> None:
        from culmo.desk.rooms.box.laying import arrange_by  # NumPy comes with the rooms

        arrange_by(window.session, order)

    return run


def to_room(place: RoomName) -> Run:
    return lambda window: window.show_room(place)


def to_language(code: str) -> Run:
    return lambda window: choose_language(window, code)


def looks() -> tuple[Action, ...]:
    """Light or night, and the language."""
    schemes = (
        ("system", tr("Light or night, as the system"), tr("The greys of the window follow the desktop's")),
        ("light", tr("Always light"), tr("Light greys whatever the desktop has")),
        ("night", tr("Always night"), tr("Dark greys whatever the desktop has")),
    )
    languages = (
        ("", tr("Language of the system"), tr("The window speaks the desktop's language, where it can")),
        ("en", "English", tr("The window speaks English")),
        ("de", "Deutsch", tr("The window speaks German")),
    )
    return tuple(
        Action(
            f"scheme {key}", title, Menu.VIEW, to_scheme(key), checked=has_scheme(key), gap=not i, help=words
        )
        for i, (key, title, words) in enumerate(schemes)
    ) + tuple(
        Action(
            f"language {key}", title, Menu.VIEW, to_language(key), checked=speaks(key), gap=not i, help=words
        )
        for i, (key, title, words) in enumerate(languages)
    )


CAUTIONS = tr(
    "<p><b>The maker's label and safety data sheet and your local rules come first.</b>\n"
    "Culmo calls no paint safe.</p>\n<ul><li>Do not point the brush with the lips; do not "
    "eat, drink or smoke at the table; wash your hands afterwards.</li>\n<li>Some pigments "
    "are harmful if swallowed or breathed in: those with cadmium, cobalt, nickel, lead, "
    "mercury, chromium,\nantimony or barium among them. Do not sand or spray dry paint.</li>\n"
    "<li>Do not pour rinse water with heavy-metal pigments where local rules forbid it.</li>\n"
    "<li>Sprays, solvents and drawing inks need moving air.</li>\n<li>Cut away from the hand "
    "that holds the paper.</li></ul>"
)
