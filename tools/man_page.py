"""Makes the manual page from the parser of the command line, so that the two say the same: `make man`."""

import argparse
import sys
from pathlib import Path

from culmo import __version__
from culmo.cli.parser import build_parser

TARGET = Path(__file__).parents[1] / "src" / "culmo" / "data" / "desktop" / "culmo.1"
_HEAD = f""".TH CULMO 1 "2026-11-25" "Culmo {__version__}" "User Commands"
.SH NAME
culmo \\- plan, predict, record and compare a watercolour painter's mixing charts
.SH SYNOPSIS
.B culmo
[\\fISTUDY.culmo\\fR]
.br
.B culmo
\\fICOMMAND\\fR [\\fIOPTIONS\\fR]
.SH DESCRIPTION
Without a command the window opens, with the study that is named or with the last one.
A study that is open in another window of Culmo is brought to the front there.
.PP
A recipe is written as parts of paints with their wash, the top layer first, as in
\\(dqRose:3 + Ultramarine @ tint over Lemon\\(dq. Readings are CSV files with the columns recipe, ground, L, a, b.
Results go to the file named by \\fB\\-\\-out\\fR, or to standard output; progress goes to standard error.
A file named \\(dq\\-\\(dq is standard input, or standard output. With \\fB\\-q\\fR nothing is said but what went wrong,
with \\fB\\-v\\fR more of what is done.
.SH COMMANDS
"""
_FOOT = """.SH EXIT STATUS
0 when all was done; 2 for a wrong call, bad input, a full disk or a missing display, with one line on standard error
that says what is wrong; 130 when it was stopped; 1 for a mistake of Culmo itself, which is in the log.
.SH FILES
.TP
.I NAME.culmo
A study: one SQLite database. Each act is saved at once.
.TP
.I NAME backups/
Copies of it: the last ten, then one a day for a month.
.TP
.I NAME pictures/
Pictures that belong to it, where they are kept beside it.
.TP
.I ~/.config/culmo/culmo.ini
What the window remembers between two days.
.TP
.I ~/.cache/culmo/learned/
What the last studies taught, so that it need not be learned anew. It may be deleted at any time.
.TP
.I ~/.local/state/culmo/culmo.log
What went wrong in Culmo itself, with nothing of a study in it, for a report.
.SH EXAMPLES
.TP
culmo plan \\-\\-kind grid \\-\\-paints \\(dqLemon,Rose,Viridian\\(dq \\-\\-paper A4 \\-\\-out chart.pdf
A grid of three paints, laid out for a sheet of A4, ready to print.
.TP
culmo mix \\-\\-study paints.culmo \\-\\-target \\(dq#5a6b4c\\(dq
The recipes that come nearest to a grey green.
.TP
culmo export paints.culmo \\-\\-to folder
Everything of a study in open forms, to read elsewhere or to bring back.
.TP
culmo completion bash > ~/.local/share/bash\\-completion/completions/culmo
The words of this program completed by the shell, from its next start on; zsh and fish likewise.
.TP
culmo check damaged.culmo \\-\\-recover new.culmo
A new study from what can be read of a damaged one.
"""


def _plain(text: str) -> str:
    text = text.replace("\\", "\\e").replace("-", "\\-").replace('"', "\\(dq")
    return f"\\&{text}" if text.startswith((".", "'")) else text  # else it would be taken for a request


def _command(name: str, parser: argparse.ArgumentParser, about: str) -> list[str]:
    usage = " ".join(parser.format_usage().removeprefix("usage:").split())
    lines = [f".SS {name}", _plain(about[:1].upper() + about[1:] + "."), ".PP", f".I {_plain(usage)}"]
    for action in parser._actions:
        if action.dest == "help" or action.help == argparse.SUPPRESS:
            continue
        value = action.metavar or (action.dest.upper() if action.nargs != 0 else "")
        if isinstance(value, tuple):
            value = " ".join(value)
        head = ", ".join(action.option_strings) or str(value)
        more = f" \\fI{_plain(str(value))}\\fR" if action.option_strings and action.nargs != 0 else ""
        choices = f" One of {', '.join(str(c) for c in action.choices if c)}." if action.choices else ""
        lines += [
            ".TP",
            f"\\fB{_plain(head)}\\fR{more}",
            _plain(f"{(action.help or '').rstrip('.')}.{choices}"),
        ]
    return lines


def page() -> str:
    """The whole page."""
    parser = build_parser()
    commands = next(action for action in parser._actions if isinstance(action, argparse._SubParsersAction))
    about = {choice.dest: choice.help or "" for choice in commands._choices_actions}
    lines: list[str] = []
    for name, sub in commands.choices.items():
        lines += _command(name, sub, about[name])
    return _HEAD + "\n".join(lines) + "\n" + _FOOT


if __name__ == "__main__":
    TARGET.write_text(page(), encoding="utf-8")
    sys.exit(0)
