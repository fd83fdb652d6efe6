"""`culmo completion`: what completes the program's words in a shell, made from the parser."""

import argparse
import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from culmo.study.schema import SUFFIX

SHELLS = ("bash", "zsh", "fish")


@dataclass(frozen=True)
class Word:
    """An option or a place of a command.

    Attributes
    ----------
    flags : tuple of str, as typed; empty for what stands in a place
    help : str
    takes : str, what follows it: "" for nothing, "file", "folder", "study", "choice" or "text"
    choices : tuple of str, where it is one of several
    """

    flags: tuple[str, ...]
    help: str
    takes: str
    choices: tuple[str, ...] = ()


@dataclass(frozen=True)
class CommandWords:
    """A command with its words."""

    name: str
    help: str
    words: tuple[Word, ...]


def commands_of(parser: argparse.ArgumentParser) -> list[CommandWords]:
    """All commands of a parser, with their options and places."""
    (group,) = [action for action in parser._actions if isinstance(action, argparse._SubParsersAction)]
    helps = {choice.dest: choice.help or "" for choice in group._choices_actions}
    return [
        CommandWords(name, helps.get(name, ""), tuple(_words(own))) for name, own in group.choices.items()
    ]


def _words(parser: argparse.ArgumentParser) -> Iterator[Word]:
    for action in parser._actions:
        if action.help == argparse.SUPPRESS:
            continue
        choices = tuple(str(choice) for choice in action.choices or () if str(choice))
        yield Word(tuple(action.option_strings), _plain(action.help or ""), _takes(action, choices), choices)


def _plain(text: str) -> str:
    return re.sub(r"\s+", " ", text.replace("%%", "%")).strip()


def _takes(action: argparse.Action, choices: tuple[str, ...]) -> str:
    if action.nargs == 0:
        return ""
    if choices:
        return "choice"
    if action.dest in ("to", "folder"):
        return "folder"
    if action.dest in ("study", "copy"):
        return "study"
    return "file" if action.type is Path else "text"


def script(parser: argparse.ArgumentParser, shell: str) -> str:
    """What a shell reads to complete the program's words.

    Parameters
    ----------
    parser : ArgumentParser, of the whole program
    shell : str, one of SHELLS
    """
    made = {"bash": _bash, "zsh": _zsh, "fish": _fish}[shell]
    return made(commands_of(parser)).replace("@SUFFIX@", SUFFIX)


def _quoted(text: str) -> str:
    return "'" + text.replace("'", "'\\''") + "'"


# ---- bash

_BASH = """# completion of culmo for bash: source it, or put it where bash-completion looks
_culmo() {
    local here=${COMP_WORDS[COMP_CWORD]} before=${COMP_WORDS[COMP_CWORD-1]} command=${COMP_WORDS[1]}
    COMPREPLY=()
    if [[ $COMP_CWORD -eq 1 ]]; then
        COMPREPLY=($(compgen -W "@COMMANDS@ --help --version" -- "$here"))
        COMPREPLY+=($(compgen -f -X '!*@SUFFIX@' -- "$here") $(compgen -d -- "$here"))
        return
    fi
    case "$command $before" in
@VALUES@
    esac
    if [[ $here == -* ]]; then
        case $command in
@OPTIONS@
        esac
        return
    fi
    case $command in
@PLACES@
    esac
}
complete -o filenames -F _culmo culmo
"""


def _bash_reply(word: Word) -> str:
    lists = {
        "choice": f'compgen -W "{" ".join(word.choices)}" -- "$here"',
        "file": 'compgen -f -- "$here"',
        "folder": 'compgen -d -- "$here"',
        "study": 'compgen -f -X "!*@SUFFIX@" -- "$here"; compgen -d -- "$here"',
        "text": "",
    }
    return f"COMPREPLY=($({lists[word.takes]}))" if lists[word.takes] else "return"


def _bash(commands: list[CommandWords]) -> str:
    values, options, places = [], [], []
    for command in commands:
        for word in command.words:
            if word.flags and word.takes:
                pattern = "|".join(f'"{command.name} {flag}"' for flag in word.flags)
                values.append(f"        {pattern}) {_bash_reply(word)}; return ;;")
        flags = " ".join(flag for word in command.words for flag in word.flags)
        options.append(f'            {command.name}) COMPREPLY=($(compgen -W "{flags}" -- "$here")) ;;')
        standing = [word for word in command.words if not word.flags]
        if standing:
            last = standing[-1] if len(standing) == 1 else Word((), "", "file")
            places.append(f"        {command.name}) {_bash_reply(last)} ;;")
    text = _BASH.replace("@COMMANDS@", " ".join(command.name for command in commands))
    text = text.replace("@VALUES@", "\n".join(values)).replace("@OPTIONS@", "\n".join(options))
    return text.replace("@PLACES@", "\n".join(places))


# ---- zsh

_ZSH = """#compdef culmo
# completion of culmo for zsh: put it as _culmo into a folder of $fpath
_culmo() {
    local -a commands
    commands=(
@COMMANDS@
    )
    if (( CURRENT == 2 )); then
        _describe -t commands 'command' commands
        _files -g '*@SUFFIX@'
        return
    fi
    local command=$words[2]
    shift words
    (( CURRENT-- ))
    case $command in
@OPTIONS@
    esac
}
if [ "$funcstack[1]" = "_culmo" ]; then _culmo "$@"; else compdef _culmo culmo; fi
"""
_ZSH_VALUES = {"file": "_files", "folder": "_files -/", "study": "_files -g '\\''*@SUFFIX@'\\''", "text": ""}


def _zsh_text(text: str) -> str:
    for mark in "\\[]:":
        text = text.replace(mark, "\\" + mark)
    return text.replace("'", "'\\''")


def _zsh_value(word: Word) -> str:
    if not word.takes:
        return ""
    value = f"({' '.join(word.choices)})" if word.takes == "choice" else _ZSH_VALUES[word.takes]
    return f":{word.takes}:{value}"


def _zsh(commands: list[CommandWords]) -> str:
    listed = [f"        '{command.name}:{_zsh_text(command.help)}'" for command in commands]
    options = []
    for command in commands:
        standing = [word for word in command.words if not word.flags]
        lines = [
            f"'{'*' if word.takes == 'file' and number else ''}{_zsh_value(word) or ':'}'"
            for number, word in enumerate(standing)
        ]
        for word in command.words:
            lines += [f"'{flag}[{_zsh_text(word.help)}]{_zsh_value(word)}'" for flag in word.flags]
        joined = " \\\n                ".join(lines)
        options.append(f"        {command.name})\n            _arguments \\\n                {joined} ;;")
    return _ZSH.replace("@COMMANDS@", "\n".join(listed)).replace("@OPTIONS@", "\n".join(options))


# ---- fish


def _fish(commands: list[CommandWords]) -> str:
    lines = [
        "# completion of culmo for fish: put it as culmo.fish into ~/.config/fish/completions",
        "complete -c culmo -f",
        "complete -c culmo -n __fish_use_subcommand -l help -d 'show what there is'",
        "complete -c culmo -n __fish_use_subcommand -l version -d 'the version'",
        "complete -c culmo -n __fish_use_subcommand -k -a '(__fish_complete_suffix @SUFFIX@)'",
    ]
    lines += [
        f"complete -c culmo -n __fish_use_subcommand -a {command.name} -d {_quoted(command.help)}"
        for command in commands
    ]
    for command in commands:
        seen = f"-n '__fish_seen_subcommand_from {command.name}'"
        lines += [f"complete -c culmo {seen} {_fish_word(word)}" for word in command.words]
    return "\n".join(lines) + "\n"


def _fish_word(word: Word) -> str:
    names = [f"-l {flag[2:]}" if flag.startswith("--") else f"-s {flag[1:]}" for flag in word.flags]
    values = {
        "": "",
        "choice": f"-x -a {_quoted(' '.join(word.choices))}",
        "file": "-r -F" if word.flags else "-F",
        "folder": "-x -a '(__fish_complete_directories)'",
        "study": "-r -F" if not word.flags else "-x -k -a '(__fish_complete_suffix @SUFFIX@)'",
        "text": "-x",
    }
    described = f"-d {_quoted(word.help)}" if word.help else ""
    return " ".join(part for part in (*names, values[word.takes], described) if part)
