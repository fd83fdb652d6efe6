"""What can be gone to by its name, and how what is typed finds it."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

MOST = 40


@dataclass(frozen=True)
class Goal:
    """An act, a paint, a sheet or a mix.

    Attributes
    ----------
    title : str, as it is called
    kind : str, what it is, in words
    about : str, what it does, or what else it is known by
    keys : str, its shortcut
    go : function that does it, or goes there
    """

    title: str
    kind: str
    about: str
    keys: str
    go: Callable[[], object]


def found(goals: Iterable[Goal], typed: str, most: int = MOST) -> list[Goal]:
    """The goals in which each typed word begins a word: those whose title begins so first, then by title, then by the rest.

    Parameters
    ----------
    goals : iterable of Goal
    typed : str; all goals are found by nothing
    most : int
    """
    wanted = typed.casefold().split()
    ranked = []
    for place, goal in enumerate(goals):
        rank = _rank(goal, wanted)
        if rank is not None:
            ranked.append((rank, place, goal))
    return [goal for _, _, goal in sorted(ranked, key=lambda entry: entry[:2])[:most]]


def _rank(goal: Goal, wanted: Sequence[str]) -> int | None:
    title, rest = goal.title.casefold(), f"{goal.kind} {goal.about}".casefold()
    titles, others = _words(title), _words(rest)
    rank = 0
    for number, word in enumerate(wanted):
        if number == 0 and title.startswith(word):
            continue
        if any(own.startswith(word) for own in titles):
            rank = max(rank, 1)
        elif word in title:
            rank = max(rank, 2)
        elif any(own.startswith(word) for own in others):
            rank = max(rank, 3)
        else:
            return None
    return rank


def _words(text: str) -> list[str]:
    return "".join(letter if letter.isalnum() else " " for letter in text).split()
