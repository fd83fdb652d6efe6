"""The command line: which command is meant, and one way to fail."""

import argparse
import sys
from collections.abc import Callable, Sequence
from contextlib import suppress
from io import TextIOWrapper
from pathlib import Path

from culmo.cli.parser import build_parser
from culmo.cli.streams import (
    STANDARD,
    Level,
    check_output,
    drop_output,
    drop_unwritten,
    flush_output,
    says,
    set_level,
    taking_in,
)  # fmt: skip
from culmo.errors import CulmoError


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command line.

    Returns
    -------
    int, 0 when done, 1 for a mistake of Culmo itself, 2 for a wrong call or bad input, 130 when it was stopped
    """
    words = list(sys.argv[1:] if arguments is None else arguments)
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, TextIOWrapper):  # a path may hold bytes that are no text
            stream.reconfigure(errors="backslashreplace")
    set_level(quiet=False, more=False)
    try:
        done = _run(words)
        flush_output()
        return done
    except KeyboardInterrupt:
        _tell("stopped")
        return 130
    except BrokenPipeError:  # who reads has read enough
        drop_output()
        return 0
    except CulmoError as error:
        drop_unwritten()
        _tell(str(error))
        return 2
    except OSError as error:
        drop_unwritten()
        _tell(f"{error.filename + ': ' if isinstance(error.filename, str) else ''}{error.strerror or error}")
        return 2
    except MemoryError:
        _tell("there is not enough memory for this")
        return 2
    except Exception as error:  # noqa: BLE001  # whatever it is: no traceback for who only called a command
        return _own_mistake(error)


def _tell(words: str) -> None:
    """A last line to the person at the terminal, if there is one to write to."""
    with suppress(OSError, ValueError):
        print(f"culmo: {words}", file=sys.stderr, flush=True)


def _own_mistake(error: Exception) -> int:
    """A mistake of Culmo itself: told in one line, and whole in the log."""
    from culmo import log

    log.begin()
    report = log.note(error)
    if says(Level.MORE):
        with suppress(OSError, ValueError):
            sys.stderr.write(report)
    drop_unwritten()
    where = f"; the log tells more: {log.path()}" if log.path().is_file() else ""
    _tell(f"Culmo made a mistake that is not yours ({type(error).__name__}: {error}){where}")
    return 1


def _run(words: Sequence[str]) -> int:
    opens = not words or words[0].endswith(".culmo")
    if opens or (words[0] == "demo" and "--open" in words):
        from culmo.desk.language import speak

        speak()  # before anything is loaded that speaks; the commands themselves speak English, as contracts do
    if opens:
        if len(words) > 1:
            raise CulmoError(
                f'the window opens one study; "{words[1]}" is one word too many (see: culmo --help)'
            )
        from culmo.desk.app import run_window

        return run_window(Path(words[0]) if words else None)
    options = build_parser().parse_args(words)
    if options.install_desktop is not None or options.remove_desktop is not None:
        from culmo.cli.desktop import run_desktop

        return run_desktop(options)
    if options.command is None:
        raise CulmoError("which command? (see: culmo --help)")
    set_level(options.quiet, options.verbose)
    if str(getattr(options, "out", None)) == STANDARD:
        options.out = None
    check_output(getattr(options, "out", None))
    with taking_in(options):
        return _command(options.command)(options)


def _command(name: str) -> Callable[[argparse.Namespace], int]:
    from culmo.cli import commands

    run: Callable[[argparse.Namespace], int] = getattr(commands, f"run_{name}")
    return run
