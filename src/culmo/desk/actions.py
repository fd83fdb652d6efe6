"""The table of actions: menus, shortcuts and the shortcut list are all made from it."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow

MENUS = ("File", "Edit", "View", "Sheet", "Paint", "Help")
LIGHT_WORDS = ("Daylight D65", "Warm lamp", "Cool LED")
ROOMS = ("Box", "Plan", "Paint", "Read", "Weigh", "Daybook")
Run = Callable[["MainWindow"], object]
Test = Callable[["MainWindow"], bool]


def _always(_: "MainWindow") -> bool:
    return True


def _with_study(window: "MainWindow") -> bool:
    return window.session.study is not None


def _with_sheet(window: "MainWindow") -> bool:
    return window.session.sheet_id is not None


def _with_trial(window: "MainWindow") -> bool:
    return window.session.study is not None and window.plan.trial is not None


def _with_box(window: "MainWindow") -> bool:
    return window.session.box is not None


def _in_box(window: "MainWindow") -> bool:
    return window.session.study is not None and window.rooms.currentWidget() is window.box


def _can_paste(window: "MainWindow") -> bool:
    return _in_box(window) or (window.session.study is not None and window.rooms.currentIndex() in (3, 4, 5))


def _with_picture(window: "MainWindow") -> bool:
    return (
        window.session.study is not None
        and window.rooms.currentIndex() == 3
        and window.read.trial is not None
    )


def _with_paint(window: "MainWindow") -> bool:
    return _in_box(window) and window.box.current_paint() is not None


@dataclass(frozen=True)
class Action:
    """One thing that the window can do.

    Attributes
    ----------
    id : str
    title : str, as the menu shows it
    menu : str, one of MENUS
    run : function of the window
    shortcut : str
    enabled : function of the window
    checkable : bool
    gap : bool, whether a line stands before it in the menu
    help : str, one sentence for the list of shortcuts
    """

    id: str
    title: str
    menu: str
    run: Run
    shortcut: str = ""
    enabled: Test = _always
    checkable: bool = False
    gap: bool = False
    help: str = ""


def _light(place: int) -> Run:
    return lambda window: window.session.set_light(place)


def _scheme(choice: str) -> Run:
    return lambda window: window.choose_scheme(choice)


def _arrange(order: str) -> Run:
    return lambda window: window.box.arrange_by(order)


def _room(place: int) -> Run:
    return lambda window: window.show_room(place)


ACTIONS: tuple[Action, ...] = (
    Action("new", "New study…", "File", lambda w: w.new_study(), "Ctrl+N", help="Begin an empty study"),
    Action("open", "Open study…", "File", lambda w: w.open_study(), "Ctrl+O", help="Open a study from a file"),
    Action("sample", "Open the sample study", "File", lambda w: w.open_sample(), help="Look round in invented data"),
    Action(
        "export", "Export the sheet…", "File", lambda w: w.export_sheet(), "Ctrl+E", _with_sheet, gap=True,
        help="The sheet at true scale as PDF, SVG or PNG, its cells as CSV or JSON",
    ),
    Action(
        "print", "Print the sheet…", "File", lambda w: w.print_sheet(), "Ctrl+P", _with_sheet,
        help="The sheet on paper at 1:1, with a check bar",
    ),
    Action(
        "import", "Import…", "File", lambda w: w.import_files(), "", _with_study, gap=True,
        help="Readings, sheets, paints, wanted colours or measurements from open files",
    ),
    Action(
        "export study", "Export the whole study…", "File", lambda w: w.export_study(), "", _with_study,
        help="Everything into a new folder: one file to make it again from, and tables, sheets, palettes beside it",
    ),
    Action(
        "recover", "Recover a damaged study…", "File", lambda w: w.recover_study(),
        help="A new study from what can be read of a damaged file",
    ),
    Action(
        "book", "Write a book…", "File", lambda w: w.daybook_desk.book(), "Ctrl+Shift+E", _with_study, gap=True,
        help="A day, a sheet or the whole study as a PDF with charts, recipes, readings, notes and reasons; or printed",
    ),
    Action(
        "carry", "A card to carry…", "File", lambda w: w.daybook_desk.card(), "", _with_study,
        help="The keepers with their parts on a card to cut out",
    ),
    Action("quit", "Quit", "File", lambda w: w.close(), "Ctrl+Q", gap=True, help="Close the window; all is saved"),
    Action(
        "undo", "Undo", "Edit", lambda w: w.session.undo.undo(), "Ctrl+Z", lambda w: w.session.undo.canUndo(),
        help="Take back the last act",
    ),
    Action(
        "redo", "Redo", "Edit", lambda w: w.session.undo.redo(), "Ctrl+Shift+Z", lambda w: w.session.undo.canRedo(),
        help="Do it again",
    ),
    Action(
        "paste", "Paste", "Edit", lambda w: w.paste(), "Ctrl+V", _can_paste, gap=True,
        help="In the Box room a list of paints or a picture of a swatch, in the Read room a picture of the sheet, "
        "in the Weigh room a colour to look for, in the Daybook a picture for the note",
    ),
    Action(
        "find", "Find a mix…", "Edit", lambda w: w.find_mix(), "Ctrl+L", _with_study, gap=True,
        help="A colour wanted: the recipes that come nearest",
    ),
    Action(
        "find like", "Find mixes like the selected one", "Edit", lambda w: w.find_like_selected(), "Ctrl+Shift+L",
        lambda w: bool(w.state.current), help="Other mixes that look like the selected cell of the sheet",
    ),
    Action(
        "search", "Search the record…", "Edit", lambda w: w.daybook_desk.search(), "Ctrl+F", _with_study, gap=True,
        help="A paint, a pigment, a word, a mark, a date or a colour, in everything that was done",
    ),
    Action(
        "search like", "Search colours like the selected one", "Edit", lambda w: w.daybook_desk.search_selected(),
        "Ctrl+J", lambda w: bool(w.state.current), help="Readings and wanted colours near the selected cell of the sheet",
    ),
    *(
        Action(f"room {room.casefold()}", room, "View", _room(i), f"Ctrl+{i + 1}", help=f"Go to the {room} room")
        for i, room in enumerate(ROOMS)
    ),
    Action(
        "flat", "Flat colour", "View", lambda w: w.session.set_flat(not w.session.flat), "F9", checkable=True,
        gap=True, help="Plain colour instead of washes, for judging by number",
    ),
    *(
        Action(
            f"light {i}", word, "View", _light(i), checkable=True, gap=i == 0,
            help=f"See everything under {word.casefold()}",
        )
        for i, word in enumerate(LIGHT_WORDS)
    ),
    *(
        Action(
            f"scheme {choice}", word, "View", _scheme(choice), checkable=True, gap=i == 0, help=words,
        )
        for i, (choice, word, words) in enumerate((
            ("system", "Light or night, as the system", "The greys of the window follow the desktop's"),
            ("light", "Always light", "Light greys whatever the desktop has"),
            ("night", "Always night", "Dark greys whatever the desktop has"),
        ))
    ),
    Action(
        "full screen", "Full screen", "View", lambda w: w.toggle_full_screen(), "F11", checkable=True,
        help="All of the screen for the window",
    ),
    Action(
        "new grid", "New sheet…", "Sheet", lambda w: w.new_grid(), "Ctrl+G", lambda w: len(w.session.paints) > 1,
        help="Plan a sheet of any kind with the paints in hand, or with the box",
    ),
    Action(
        "cards", "Card pages…", "Sheet", lambda w: w.box_desk.plan_cards(), "Ctrl+K",
        lambda w: bool(w.session.paints), help="Plan the cards of paints: masstone, bar, tint, patches to lift and to fade",
    ),
    Action(
        "keep plan", "Keep this plan", "Sheet", lambda w: w.plan.keep_plan(), "Ctrl+S",
        _with_trial, help="Save the layout that is being tried",
    ),
    Action(
        "leave plan", "Leave the layout as it was", "Sheet", lambda w: w.plan.discard_trial(), "",
        _with_trial, help="Forget the layout that is being tried",
    ),
    Action(
        "paint", "Paint this sheet", "Sheet", lambda w: w.show_room(2), "Ctrl+B", _with_sheet, gap=True,
        help="Go to the table with this sheet",
    ),
    Action(
        "picture", "Open a picture of it…", "Sheet", lambda w: w.open_picture(), "Ctrl+I", _with_sheet,
        help="A photo or scan of the dry sheet; its cells are found and read",
    ),
    Action(
        "practice", "Practice photo", "Sheet", lambda w: w.practise(), "Ctrl+Shift+I", _with_sheet,
        help="A simulated camera takes a picture of this sheet as a hand would paint it",
    ),
    Action(
        "card", "Reference card in the picture…", "Sheet", lambda w: w.use_card(), "", _with_picture,
        help="Correct the picture by a grey or colour card whose values are in a file",
    ),
    Action(
        "watch", "Watch a folder for pictures…", "Sheet", lambda w: w.watch_folder(), "", _with_study, checkable=True,
        help="A new picture in the folder is opened in the Read room; choose again to end it",
    ),
    Action(
        "inside", "Keep pictures inside the study", "Sheet", lambda w: w.keep_inside(), "", checkable=True,
        help="Otherwise they lie in a folder beside it",
    ),
    Action(
        "readings", "Import readings…", "Sheet", lambda w: w.import_readings(), "Ctrl+R", _with_study,
        help="Readings from a CSV or CGATS file",
    ),
    Action(
        "window", "Put it into the window…", "Sheet", lambda w: w.box_desk.start_fade(), "",
        lambda w: w.box_desk.can_fade(), gap=True, help="Begin its fade test; the looks are due from then on",
    ),
    Action(
        "from window", "Take it out of the window", "Sheet", lambda w: w.box_desk.end_fade(), "",
        lambda w: w.box_desk.can_fade(), help="End its fade test; the looks stand",
    ),
    Action(
        "add paint", "Add a paint…", "Paint", lambda w: w.add_paint(), "Ctrl+Shift+N", _with_study,
        help="Enter a paint and its card",
    ),
    Action(
        "enter", "Enter many paints…", "Paint", lambda w: w.enter_paints(), "Ctrl+Shift+V", _with_study,
        help="Paste or type a list of paints, or open a table",
    ),
    Action(
        "refill", "Refill its well…", "Paint", lambda w: w.box_desk.refill(), "", _with_paint,
        help="Another paint takes the selected one's place",
    ),
    Action(
        "instead", "Mixes in its place", "Paint", lambda w: w.mixes_in_place(), "", _with_paint,
        help="What stands in the place of the selected paint, from full wash to tint",
    ),
    Action(
        "fewer", "Fewer paints", "Paint", lambda w: w.show_fewer(), "Ctrl+Shift+F", _with_study,
        help="The best few paints of the box, and what they lose",
    ),
    Action(
        "swatch", "Its card from a picture…", "Paint", lambda w: w.box_desk.take_swatch(), "", _in_box,
        help="Colours of a swatch from a photo or scan",
    ),
    Action(
        "bring back", "Bring back a retired paint…", "Paint", lambda w: w.box_desk.bring_back(), "",
        lambda w: w.box_desk.has_retired(), help="A paint that had left the box is in use again",
    ),
    Action(
        "new box", "Lay out a box…", "Paint", lambda w: w.box_desk.new_box(), "Ctrl+Shift+B", _with_study, gap=True,
        help="Rows and columns of wells with a name",
    ),
    Action(
        "change box", "Change the box…", "Paint", lambda w: w.box_desk.change_box(), "", _with_box,
        help="Another name or another shape",
    ),
    Action(
        "remove box", "Take the box apart", "Paint", lambda w: w.box_desk.remove_box(), "", _with_box,
        help="The box goes, its paints stay",
    ),
    Action(
        "pan", "Half pan or full pan", "Paint", lambda w: w.box_desk.turn_pan(), "Ctrl+Shift+P", _in_box,
        help="Change the pan of the selected well",
    ),
    *(
        Action(
            f"arrange {order}", f"Arrange by {order}" if " " not in order else f"Arrange {order}", "Paint",
            _arrange(order), enabled=_with_box, gap=i == 0, help="Lay the box's paints in this order",
        )
        for i, order in enumerate(("hue", "lightness", "warm to cool"))
    ),
    Action(
        "print map", "Print the well map…", "Paint", lambda w: w.box_desk.print_well_map(), "", _with_box, gap=True,
        help="The sheet for the lid at the box's true size",
    ),
    Action(
        "export map", "Export the well map…", "Paint", lambda w: w.box_desk.export_well_map(), "", _with_box,
        help="The sheet for the lid as PDF, SVG or PNG",
    ),
    Action(
        "slip", "Shop slip…", "Paint", lambda w: w.box_desk.shop_slip(), "", _with_study,
        help="What you have, what is missing, what to look for",
    ),
    Action(
        "empty hands", "Put all paints back", "Paint", lambda w: w.empty_hands(), "Ctrl+0",
        lambda w: bool(w.session.in_hand), gap=True, help="No paint in hand",
    ),
    Action(
        "stop", "Stop learning", "Paint", lambda w: w.session.stop_learning(), "Ctrl+.",
        lambda w: w.session.runner.busy("learn"), help="Break off the learning; the old figures stand",
    ),
    Action("help", "Help on this room", "Help", lambda w: w.show_help("room"), "F1", help="The page of the room on view"),
    Action("shortcuts", "Keys", "Help", lambda w: w.show_help("keys"), "Ctrl+F1", help="This list"),
    Action("cautions", "Cautions", "Help", lambda w: w.show_help("cautions"), help="What can hurt, and what to do"),
    Action("about", "About Culmo", "Help", lambda w: w.show_help("about"), gap=True, help="Version and licences"),
)  # fmt: skip


def keys_text() -> str:
    """All actions with their keys, as rich text."""
    rows = []
    for menu in MENUS:
        rows.append(f"<tr><td colspan=3><br><b>{menu}</b></td></tr>")
        for action in ACTIONS:
            if action.menu == menu:
                key = action.shortcut.replace("+", " + ")
                rows.append(
                    f"<tr><td>{action.title}&nbsp;&nbsp;</td><td>{key}&nbsp;&nbsp;</td><td>{action.help}</td></tr>"
                )
    rows.append("<tr><td colspan=3><br><b>At the table (Paint room)</b></td></tr>")
    from culmo.desk.rooms.paint.view import KEYS

    for key, words in KEYS:
        rows.append(f"<tr><td></td><td>{key}</td><td>{words}</td></tr>")
    return f"<table>{''.join(rows)}</table>"


CAUTIONS = """<p><b>The maker's label and safety data sheet and your local rules come first.</b>
Culmo calls no paint safe.</p>
<ul><li>Do not point the brush with the lips; do not eat, drink or smoke at the table; wash your hands afterwards.</li>
<li>Some pigments are harmful if swallowed or breathed in: those with cadmium, cobalt, nickel, lead, mercury, chromium,
antimony or barium among them. Do not sand or spray dry paint.</li>
<li>Do not pour rinse water with heavy-metal pigments where local rules forbid it.</li>
<li>Sprays, solvents and drawing inks need moving air.</li>
<li>Cut away from the hand that holds the paper.</li></ul>"""
