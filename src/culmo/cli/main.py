"""The command line: the commands' words, and one way to fail."""

import argparse
import sys
from collections.abc import Callable, Sequence
from pathlib import Path

from culmo import __version__
from culmo.errors import CulmoError


class _Parser(argparse.ArgumentParser):
    """Fails with one line instead of the usage page."""

    def error(self, message: str) -> None:  # type: ignore[override]  # it raises, as the original exits
        raise CulmoError(f"{message} (see: {self.prog} --help)")


def build_parser() -> argparse.ArgumentParser:
    """The parser of all commands."""
    parser = _Parser(prog="culmo", description="Plans, predicts and records mixing charts of watercolours.")
    parser.add_argument("--version", action="version", version=f"culmo {__version__}")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND", parser_class=_Parser)

    predict = commands.add_parser("predict", help="predict the colours of recipes from readings")
    _add_source(predict)
    predict.add_argument("--ask", type=Path, required=True, help="CSV with recipe[,ground]")
    predict.add_argument("--out", type=Path, help="CSV to write; standard output where absent")

    match = commands.add_parser("mix", help="recipes in small whole parts that come nearest to a colour")
    _add_source(match)
    match.add_argument("--target", required=True, help='"#5a6b4c" or "L,a,b"')
    match.add_argument("--paints", type=int, default=3, help="at most so many paints, 1 to 3")
    match.add_argument("--count", type=int, default=5, help="how many recipes")
    match.add_argument(
        "--keep", action="append", default=[], metavar="NAME", help="a paint that must be in it"
    )
    match.add_argument("--avoid", action="append", default=[], metavar="NAME", help="a paint that must not")
    match.add_argument("--out", type=Path, help="CSV to write; standard output where absent")

    following = commands.add_parser("next", help="the unread cells to paint first, most informative first")
    _add_source(following)
    following.add_argument("--sheet", type=Path, required=True, help="a sheet as JSON")
    following.add_argument("--count", type=int, default=10, help="how many cells")
    following.add_argument("--out", type=Path, help="text file to write; standard output where absent")

    plan = commands.add_parser("plan", help="lay out a sheet")
    plan.add_argument("--kind", required=True, choices=("grid",))
    plan.add_argument("--paints", required=True, help='names with commas between: "Rose,Lemon,Sepia"')
    plan.add_argument("--paper", default="A4", help="a name such as A3, or a size such as 240x320 or 9x12in")
    plan.add_argument("--title", default="")
    plan.add_argument("--orientation", default="best", choices=("best", "portrait", "landscape"))
    plan.add_argument("--margin", default="6", help="tape margin, in mm or as 1/4in")
    plan.add_argument("--gap", default="0", help="bare paper between cells")
    plan.add_argument("--cell", default="", help="wished cell size, as 20 or 20x15; the largest where absent")
    plan.add_argument("--square", action="store_true", help="square cells")
    plan.add_argument(
        "--second", default="paler", help="second half: paler, white, dominance, third, same, empty"
    )
    plan.add_argument("--extra", default="", help="the white or third paint of the second half")
    plan.add_argument("--labels", default="name", choices=("name", "number", "code", "none"))
    plan.add_argument(
        "--out", type=Path, help=".json, .csv, .svg, .pdf or .png; JSON to standard output where absent"
    )

    demo = commands.add_parser("demo", help="write the sample study")
    demo.add_argument("folder", nargs="?", type=Path, metavar="DIR")
    demo.add_argument("--open", action="store_true", help="open it in the window")
    demo.add_argument("--shots", type=Path, help=argparse.SUPPRESS)

    check = commands.add_parser("check", help="say whether a study file is sound")
    check.add_argument("study", type=Path)
    return parser


def _add_source(parser: argparse.ArgumentParser) -> None:
    source = parser.add_mutually_exclusive_group(required=True)
    source.add_argument("--readings", type=Path, help="CSV with recipe,ground,L,a,b")
    source.add_argument("--study", type=Path, help="a study file instead")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command line.

    Returns
    -------
    int, 0 when done, 2 for a wrong call or bad input
    """
    words = list(sys.argv[1:] if arguments is None else arguments)
    try:
        if not words or words[0].endswith(".culmo"):
            from culmo.desk.app import run_window

            return run_window(Path(words[0]) if words else None)
        options = build_parser().parse_args(words)
        if options.command is None:
            raise CulmoError("which command? (see: culmo --help)")
        return _command(options.command)(options)
    except CulmoError as error:
        print(f"culmo: {error}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        return 0


def _command(name: str) -> Callable[[argparse.Namespace], int]:
    from culmo.cli import commands

    run: Callable[[argparse.Namespace], int] = getattr(commands, f"run_{name}")
    return run
