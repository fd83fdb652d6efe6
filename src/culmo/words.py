"""The words of the interface in the user's language, and its way of writing numbers and dates.

A string stands in the code in English, inside `tr(...)`; that is what the catalogues in `data/locale` are made from
(`make words`). The language is chosen once, by `use`, before the modules that speak are loaded.
"""

import gettext
import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cache
from importlib.resources import files
from string import Formatter
from typing import Any

ENGLISH = "en"
LANGUAGES = (ENGLISH, "de")
_DOMAIN = "culmo"


@dataclass
class _Speech:
    """What is in force."""

    catalogue: gettext.NullTranslations
    language: str = ENGLISH
    decimal: str = "."
    half_days: bool = False


_speech = _Speech(gettext.NullTranslations())


class _Local(Formatter):
    """Numbers with the decimal sign of the place."""

    def format_field(self, value: Any, spec: str) -> str:
        text = str(format(value, spec))
        return text.replace(".", _speech.decimal) if isinstance(value, float) else text


_local = _Local()


def use(language: str, decimal: str = ".", half_days: bool = False) -> str:
    """Speak a language from now on; gives the one that is spoken, English where there is no catalogue.

    Parameters
    ----------
    language : str, such as "de" or "de_AT"
    decimal : str, the decimal sign
    half_days : bool, whether the hours are counted to twelve
    """
    code = language.replace("-", "_").split("_")[0].casefold()
    code = code if code in LANGUAGES else ENGLISH
    _speech.language, _speech.decimal, _speech.half_days = code, decimal, half_days
    _speech.catalogue = gettext.NullTranslations()
    if code != ENGLISH:
        place = files("culmo.data").joinpath("locale", code, "LC_MESSAGES", f"{_DOMAIN}.mo")
        with place.open("rb") as file:
            _speech.catalogue = gettext.GNUTranslations(file)
    return code


def language() -> str:
    """The language that is spoken."""
    return _speech.language


def tr(text: str, **values: Any) -> str:
    """A text in the user's language.

    Parameters
    ----------
    text : str, in English, with {names} where values go
    values : what stands there
    """
    found = _speech.catalogue.gettext(text) if text else ""
    return _local.vformat(found, (), values) if values else found


def with_point(text: str) -> str:
    """A number as it is reckoned with, where the spreadsheet of some countries wrote a decimal comma.

    Examples
    --------
    >>> with_point("47,3"), with_point("4,7,3")
    ('47.3', '4,7,3')
    """
    return text.replace(",", ".") if re.fullmatch(r"\s*[+-]?\d*,\d+(?:[eE][+-]?\d+)?\s*", text) else text


def listed(words: Sequence[str]) -> str:
    """Words in a row, as they are said: "Rose", "Rose and Lemon", "Rose, Lemon and Sepia".

    Parameters
    ----------
    words : sequence of str, in the user's language
    """
    if len(words) < 2:
        return "".join(words)
    return tr("{first} and {last}", first=", ".join(words[:-1]), last=words[-1])


def trn(one: str, many: str, count: int, **values: Any) -> str:
    """A text that depends on a number, which stands at {n}.

    Parameters
    ----------
    one, many : str, in English, for one and for any other number
    count : int
    values : what else stands in it
    """
    return _local.vformat(_speech.catalogue.ngettext(one, many, count), (), {"n": count, **values})


def trc(context: str, text: str) -> str:
    """A text in the user's language, where the same English word means several things.

    Parameters
    ----------
    context : str, such as "room"
    text : str, in English
    """
    return _speech.catalogue.pgettext(context, text)


def decimal(text: str) -> str:
    """A number that was written with a point, with the decimal sign of the place."""
    return text.replace(".", _speech.decimal)


@cache
def _names(language: str) -> tuple[tuple[str, ...], tuple[str, ...], tuple[str, ...]]:
    """Of a language the months by themselves, the months as they stand in a date, and the days from Monday on."""
    from babel import Locale  # its names are read from files, and not every window writes a date

    locale = Locale.parse(language)
    alone, dated = locale.months["stand-alone"]["wide"], locale.months["format"]["wide"]
    days = locale.days["format"]["wide"]
    return (
        tuple(str(alone[number]) for number in range(1, 13)),
        tuple(str(dated[number]) for number in range(1, 13)),
        tuple(str(days[number]) for number in range(7)),
    )


def months() -> tuple[str, ...]:
    """The names of the months, each by itself."""
    return _names(_speech.language)[0]


def day_words(moment: datetime, weekday: bool = True) -> str:
    """A day, such as "Tuesday, 3 November 2026"."""
    _, dated, days = _names(_speech.language)
    values = {"day": moment.day, "month": dated[moment.month - 1], "year": moment.year}
    if not weekday:
        return tr("{day} {month} {year}", **values)
    return tr("{weekday}, {day} {month} {year}", weekday=days[moment.weekday()], **values)


def clock_words(moment: datetime) -> str:
    """The time of day, such as "14:05"."""
    if not _speech.half_days:
        return f"{moment:%H:%M}"
    return f"{moment.hour % 12 or 12}:{moment:%M} {'am' if moment.hour < 12 else 'pm'}"


def mark(text: str) -> str:
    """A word that serves as a key too, for the catalogue alone; it is translated where it is shown."""
    return text


def capital(text: str) -> str:
    """A text with a capital letter at its head; the others stay as they are.

    Examples
    --------
    >>> capital("wet in wet")
    'Wet in wet'
    """
    return text[:1].upper() + text[1:]
