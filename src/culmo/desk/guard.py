"""Nothing is raised into Qt: what Qt calls back while it shows, paints and closes things is guarded.

An exception that leaves such a method comes up in whatever Python code happens to be running, or ends the program. So each
class that overrides methods of Qt bears `@guarded`; a test looks that none is forgotten.
"""

import sys
from collections.abc import Callable
from functools import wraps
from types import FunctionType, TracebackType
from typing import Any, TypeVar

from PySide6.QtGui import QPainter

_Class = TypeVar("_Class", bound=type)
_OF_QT = ("PySide6.", "Shiboken")


def overridden(cls: type) -> list[str]:
    """The methods of a class that Qt calls: those that a class of Qt has too, and that are not called from Python alone."""
    bases = [base for base in cls.__mro__[1:] if base.__module__.startswith(_OF_QT)]
    return [
        name
        for name, value in vars(cls).items()
        if isinstance(value, FunctionType)
        and not name.startswith("__")
        and any(name in vars(base) for base in bases)
    ]


def guarded(cls: _Class) -> _Class:
    """Guard what a class overrides of Qt: a mistake in it goes to the one place for mistakes, and Qt does what it would."""
    for name in overridden(cls):
        setattr(cls, name, _guard(cls, name, vars(cls)[name]))
    return cls


def _end_painting(trace: TracebackType | None) -> None:
    """End what was being painted where the mistake was made: the traceback keeps the painters alive, and a widget or a
    picture that goes while it is painted ends the program."""
    while trace is not None:
        for value in trace.tb_frame.f_locals.values():
            if isinstance(value, QPainter) and value.isActive():
                value.end()
        trace = trace.tb_next


def _guard(cls: type, name: str, method: Callable[..., Any]) -> Callable[..., Any]:
    @wraps(method)
    def safe(self: Any, *values: Any, **named: Any) -> Any:
        try:
            return method(self, *values, **named)
        except Exception:  # noqa: BLE001 - whatever it is: it is told, and must not be raised into Qt
            kind, error, trace = sys.exc_info()
            assert kind is not None and error is not None
            _end_painting(trace)
            sys.excepthook(kind, error, trace)
        # what asks for a value gets that of Qt; what tells of something was told
        return None if name.endswith("Event") else getattr(super(cls, self), name)(*values, **named)

    safe.is_guarded = True  # type: ignore[attr-defined]  # the test looks for it
    return safe
