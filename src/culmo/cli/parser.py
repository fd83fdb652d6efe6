"""The words of the command line: its commands with their options and places."""

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from culmo import __version__
from culmo.cli.completion import SHELLS
from culmo.core.paint.lights import SHOT_LIGHTS
from culmo.data import SCHEMAS
from culmo.errors import CulmoError

if TYPE_CHECKING:
    from culmo.core.chart.options import Option


class _Commands:
    """The commands of the parser, each with what all of them take."""

    def __init__(self, parser: argparse.ArgumentParser) -> None:
        self._commands = parser.add_subparsers(dest="command", metavar="COMMAND", parser_class=_Parser)
        self._common = _Parser(add_help=False)
        loud = self._common.add_mutually_exclusive_group()
        loud.add_argument("-q", "--quiet", action="store_true", help="say nothing but what went wrong")
        loud.add_argument("-v", "--verbose", action="store_true", help="say more of what is done")

    def add_parser(self, name: str, help: str) -> argparse.ArgumentParser:
        """A command."""
        return self._commands.add_parser(name, help=help, description=help, parents=[self._common])


class _Parser(argparse.ArgumentParser):
    """Fails with one line instead of the usage page."""

    def error(self, message: str) -> None:  # type: ignore[override]  # it raises, as the original exits
        raise CulmoError(f"{message} (see: {self.prog} --help)")


def build_parser() -> argparse.ArgumentParser:
    """The parser of all commands."""
    parser = _Parser(prog="culmo", description="Plans, predicts and records mixing charts of watercolours.")
    parser.add_argument("--version", action="version", version=f"culmo {__version__}")
    for flag, words in (
        (
            "--install-desktop",
            "put Culmo in the desktop's menu, with its icons, its file type and its manual page",
        ),
        ("--remove-desktop", "take that back; studies and settings stay"),
    ):
        # for who installed it by pip or pipx; a folder is given where it is for others, such as /usr/local/share
        parser.add_argument(flag, nargs="?", const="", metavar="SHARE", help=words)
    commands = _Commands(parser)

    predict = commands.add_parser("predict", help="predict the colours of recipes from readings")
    _add_source(predict)
    predict.add_argument("--ask", type=Path, required=True, help="CSV, .xlsx or .ods with recipe[,ground]")
    _add_json(predict)
    predict.add_argument("-o", "--out", type=Path, help="CSV to write; standard output where absent")

    match = commands.add_parser("mix", help="recipes in small whole parts that come nearest to a colour")
    _add_source(match)
    _add_box(match)
    match.add_argument("--target", required=True, help='"#5a6b4c" or "L,a,b"')
    match.add_argument("--paints", type=int, default=3, help="at most so many paints, 1 to 3")
    match.add_argument("--count", type=int, default=5, help="how many recipes")
    match.add_argument(
        "--keep", action="append", default=[], metavar="NAME", help="a paint that must be in it"
    )
    match.add_argument("--avoid", action="append", default=[], metavar="NAME", help="a paint that must not")
    _add_json(match)
    match.add_argument("-o", "--out", type=Path, help="CSV to write; standard output where absent")

    _add_choose(commands)
    following = commands.add_parser("next", help="the unread cells to paint first, most informative first")
    _add_source(following)
    following.add_argument("--sheet", type=Path, required=True, help="a sheet as JSON")
    following.add_argument("--count", type=int, default=10, help="how many cells")
    about = following.add_mutually_exclusive_group()
    about.add_argument(
        "--paints",
        help='to know more of what two of these paints make: "A, B, C"; the whole sheet by default',
    )
    about.add_argument("--darks", action="store_true", help="to know more of the darkest mixes")
    about.add_argument("--colour", help='to know more of the mixes near a colour: "#5a6b4c" or "L,a,b"')
    _add_json(following)
    following.add_argument("-o", "--out", type=Path, help="text file to write; standard output where absent")

    _add_plan(commands)
    order = commands.add_parser("order", help="the order of work, with rinses, water changes and waits")
    order.add_argument("sheet", type=Path, metavar="S.json")
    order.add_argument("--dry-minutes", type=float, default=15.0, help="how long a cell stays wet")
    known = order.add_mutually_exclusive_group()
    known.add_argument("--readings", type=Path, help="readings to know by how light the paints are")
    known.add_argument(
        "--study", type=Path, help="a study to know by how light the paints are, and which stain"
    )
    order.add_argument("-o", "--out", type=Path, help="JSON to write; standard output where absent")

    _add_read(commands)
    demo = commands.add_parser("demo", help="write the sample study")
    demo.add_argument("folder", nargs="?", type=Path, metavar="DIR")
    demo.add_argument("--open", action="store_true", help="open it in the window")
    demo.add_argument("--shots", type=Path, help=argparse.SUPPRESS)

    bring = commands.add_parser(
        "import", help="open files into a study; or a whole exported folder into a new one"
    )
    bring.add_argument("study", type=Path, metavar="STUDY")
    bring.add_argument(
        "files",
        type=Path,
        nargs="+",
        metavar="FILE",
        help=".csv .tsv .xlsx .ods .json .gpl .ase .kpl .css .hex .txt .cgats .it8 .ti3 .cxf, or a folder",
    )
    bring.add_argument("--new", action="store_true", help="into a new study, which is made")
    give = commands.add_parser("export", help="a study out to a folder of open files")
    give.add_argument("study", type=Path, metavar="STUDY")
    give.add_argument("--to", type=Path, required=True, metavar="DIR", help="a new or empty folder")
    give.add_argument(
        "--no-drawings",
        action="store_true",
        help="leave out the PDF, SVG and PNG of each sheet, and the book",
    )

    restore = commands.add_parser(
        "restore", help="put a copy back in the place of a study; what was there is kept as a copy"
    )
    restore.add_argument("study", type=Path, metavar="STUDY")
    restore.add_argument(
        "--from", type=Path, required=True, dest="copy", metavar="COPY", help="a sound study"
    )

    told = commands.add_parser(
        "paints", help="all that is told of each paint: own test, label, table, and what to doubt"
    )
    told.add_argument("--study", type=Path, required=True, help="the study")
    told.add_argument("--box", default="", metavar="NAME", help="the paints of this box only, in its order")
    told.add_argument("-o", "--out", type=Path, help="CSV to write; standard output where absent")
    form = commands.add_parser("schema", help="what a JSON form of Culmo holds, as a JSON Schema (2020-12)")
    form.add_argument("form", choices=SCHEMAS, help="the form")
    form.add_argument("-o", "--out", type=Path, help="file to write; standard output where absent")
    complete = commands.add_parser(
        "completion",
        help="write what completes the words of this program in a shell; the help of it says where",
    )
    complete.add_argument("shell", choices=SHELLS, help="the shell")
    complete.add_argument("-o", "--out", type=Path, help="file to write; standard output where absent")
    check = commands.add_parser("check", help="say whether a study file is sound; changes nothing, ever")
    check.add_argument("study", type=Path)
    check.add_argument(
        "--recover", type=Path, metavar="NEW.culmo", help="make a new study from what can be read of it"
    )
    return parser


def _add_choose(commands: _Commands) -> None:
    choose = commands.add_parser("choose", help="the best limited palettes, what they reach and lose")
    _add_source(choose)
    _add_box(choose)
    choose.add_argument("--size", type=int, required=True, help="how many paints")
    choose.add_argument("--count", type=int, default=5, help="how many palettes to tell")
    choose.add_argument(
        "--keep", action="append", default=[], metavar="NAME", help="a paint that must be in it"
    )
    choose.add_argument("--avoid", action="append", default=[], metavar="NAME", help="a paint that must not")
    choose.add_argument(
        "--targets", type=Path, metavar="T.csv", help="wanted colours to reach: L,a,b or hex, and name"
    )
    choose.add_argument(
        "--lightfast", action="store_true", help="only paints of good lightfastness; needs codes"
    )
    choose.add_argument("--transparent", action="store_true", help="only transparent paints; needs codes")
    choose.add_argument("--single", action="store_true", help="only paints of a single pigment; needs codes")
    choose.add_argument("--white", default="", choices=("", "with", "without"), help="a white in it, or none")
    choose.add_argument("--dark", default="", choices=("", "with", "without"), help="a dark in it, or none")
    choose.add_argument("--pairs", action="store_true", help="a warm and a cool one of each primary")
    choose.add_argument(
        "--within", type=float, default=1.0, help="list all within so many points of the best"
    )
    choose.add_argument(
        "--seconds", type=float, default=60.0, help="stop then, and say how far it was proven"
    )
    _add_measure(choose)
    choose.add_argument("-o", "--out", type=Path, help="JSON to write; standard output where absent")

    compare = commands.add_parser("compare", help="palettes side by side, in numbers")
    _add_source(compare)
    _add_box(compare)
    compare.add_argument(
        "--palette",
        action="append",
        required=True,
        metavar='"A,B,C"',
        help="names with commas between; give several",
    )
    _add_measure(compare)
    _add_json(compare)
    compare.add_argument("-o", "--out", type=Path, help="CSV to write; standard output where absent")


def _add_measure(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--tolerance", type=float, default=4.0, help="how far colours are told apart, 1 to 20"
    )
    parser.add_argument("--dull-darks", type=float, default=0.5, help="what a dull dark counts, 0 to 1")
    parser.add_argument(
        "--balanced", action="store_true", help="half the share of all, half that of the worst hue"
    )


def _add_plan(commands: _Commands) -> None:
    # the kinds of sheet and the core below them: not needed where the window opens
    from culmo.core.chart.kinds import KIND_KEYS
    from culmo.core.chart.plans import described

    plan = commands.add_parser("plan", help="lay out a sheet")
    plan.add_argument("--kind", required=True, help=f"one of {', '.join(KIND_KEYS)}")
    for name, own in described().items():
        _add_option(plan, name, own)
    source = plan.add_mutually_exclusive_group()
    source.add_argument("--readings", type=Path, help="readings to know the paints by")
    source.add_argument("--study", type=Path, help="a study to know the paints, their codes and keepers by")
    plan.add_argument(
        "-o", "--out", type=Path, help=".json, .csv, .svg, .pdf or .png; JSON to standard output where absent"
    )


def _add_option(parser: argparse.ArgumentParser, name: str, own: "Option") -> None:
    """An option of a sheet; what is not given is None, and has the default of its kind."""
    from culmo.core.chart.options import Flag, OneOf

    word = f"--{own.command or name.replace('_', '-')}"
    if isinstance(own.form, Flag):
        action = argparse.BooleanOptionalAction if own.default else "store_true"
        parser.add_argument(word, dest=name, action=action, default=None, help=own.help)
        return
    choices = own.form.choices if isinstance(own.form, OneOf) else None
    parser.add_argument(word, dest=name, choices=choices, help=own.help or None)


def _add_read(commands: _Commands) -> None:
    read = commands.add_parser("read", help="colours from a photo of the dry sheet")
    read.add_argument(
        "photo",
        type=Path,
        metavar="PHOTO",
        help="JPEG, PNG, TIFF, WebP, HEIC, AVIF, or a camera's raw file such as DNG",
    )
    read.add_argument("--sheet", type=Path, required=True, help="the sheet as JSON")
    read.add_argument("--page", type=int, help="which of several sheets in the file")
    read.add_argument(
        "--corners", default="", metavar='"x,y x,y x,y x,y"',
        help="the frame's corners in pixels, clockwise from the top left; found by itself where absent",
    )  # fmt: skip
    read.add_argument(
        "--paper", default="", metavar='"L,a,b"', help="the colour of the bare paper, where known"
    )
    read.add_argument(
        "--card", type=Path, help="values of a reference card in the picture, CGATS, CxF, CSV, .xlsx or .ods"
    )
    read.add_argument(
        "--card-corners",
        default="",
        metavar='"x,y x,y x,y x,y"',
        help="corners of its block of patches; by the sheet where that has a place for it",
    )
    read.add_argument("--card-rows", type=int, default=1, help="rows of patches on the card")
    read.add_argument(
        "--strip",
        type=Path,
        help="a strip that lies in the picture, as JSON; those of a --study are sought unasked",
    )
    read.add_argument(
        "--strip-values",
        type=Path,
        help="the colours of its cells: what was read of it, or measured by name of cell",
    )
    read.add_argument(
        "--light", choices=SHOT_LIGHTS, default="", help="by which light it was taken, where that is known"
    )
    read.add_argument(
        "--anyway", action="store_true", help="write what was seen though it seems another sheet"
    )
    source = read.add_mutually_exclusive_group()
    source.add_argument("--readings", type=Path, help="readings to know the paper and the paints by")
    source.add_argument("--study", type=Path, help="a study to know the paper and the paints by")
    read.add_argument("-o", "--out", type=Path, help="CSV to write; standard output where absent")


def _add_json(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--json", action="store_true", help="JSON instead")


def _add_source(parser: argparse.ArgumentParser) -> None:
    source = parser.add_mutually_exclusive_group(required=True)
    source.add_argument("--readings", type=Path, help="CSV, .xlsx or .ods with recipe,ground,L,a,b")
    source.add_argument("--study", type=Path, help="a study file instead")


def _add_box(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--box", default="", metavar="NAME", help="only the paints of this box of the study")
