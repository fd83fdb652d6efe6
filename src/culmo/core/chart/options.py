"""The options of a sheet, described once: what they are, what they may be, what they are called, whom they concern.

A kind of sheet, and the page that it is laid out on, is a frozen dataclass whose fields are made by `option`. The slip of
the window, the command line, the settings in a sheet's file, the checks and the manual page are all made from these
descriptions.
"""

import csv
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, fields
from math import isfinite
from typing import Any, Self

from culmo.core.chart.lengths import LengthUnit, length_mm, length_text, size_mm, size_text
from culmo.core.chart.mixes import parts_of
from culmo.core.paint.recipe import Recipe, Rename, format_recipe, parse_recipe, renamed_recipe
from culmo.errors import CulmoError
from culmo.words import tr

MOST_RECIPES = 400


class Form:
    """What sort of thing an option is: how it is checked, typed, written, and kept in a file.

    `read` takes what was typed, `write` gives it back as it would be typed; `plain` and `of_plain` go to JSON and back.
    """

    def check(self, value: Any, called: str) -> None:
        """Refuse what can not be; `called` names the option in the sentence."""

    def read(self, text: str, called: str) -> Any:
        """The value of a typed text."""
        return text

    def write(self, value: Any) -> str:
        """A value as it would be typed."""
        return str(value)

    def written_in(self, value: Any, unit: str) -> str:
        """A value as it would be typed in a unit, where it is a length."""
        return self.write(value)

    def plain(self, value: Any) -> Any:
        """A value as JSON knows it."""
        return value

    def of_plain(self, value: Any) -> Any:
        """The value of what stands in a file."""
        return value

    def renamed(self, plain: Any, rename: Rename) -> Any:
        """What stands in a file, with the names of paints in it put through `rename`."""
        return plain


@dataclass(frozen=True)
class Whole(Form):
    """A whole number between two bounds, both allowed."""

    least: int
    most: int

    def check(self, value: Any, called: str) -> None:
        if not self.least <= value <= self.most:
            raise CulmoError(
                tr(
                    "{called}: {value} can not be; it must be {least} to {most}",
                    called=called,
                    value=value,
                    least=self.least,
                    most=self.most,
                )
            )

    def read(self, text: str, called: str) -> int:
        try:
            return int(text.strip())
        except ValueError:
            raise CulmoError(
                tr('{called}: "{typed}" is not a whole number', called=called, typed=text)
            ) from None

    def of_plain(self, value: Any) -> int:
        return int(value)


@dataclass(frozen=True)
class Length(Form):
    """Millimetres between two bounds, both allowed; typed in millimetres or in inches."""

    least: float
    most: float

    def check(self, value: Any, called: str) -> None:
        if not self.least <= value <= self.most:
            raise CulmoError(
                tr(
                    "{called}: {value:g} mm can not be; it must lie between {least:g} and {most:g} mm",
                    called=called,
                    value=value,
                    least=self.least,
                    most=self.most,
                )
            )

    def read(self, text: str, called: str) -> float:
        return length_mm(text or "0")

    def write(self, value: Any) -> str:
        return f"{value:g}"

    def written_in(self, value: Any, unit: str) -> str:
        return self.write(value) if unit == LengthUnit.MM else length_text(value, unit)

    def of_plain(self, value: Any) -> float:
        return float(value)


class OwnLength(Length):
    """A length, or nothing typed (0 mm): then it is found by Culmo."""

    def write(self, value: Any) -> str:
        return super().write(value) if value else ""

    def written_in(self, value: Any, unit: str) -> str:
        return super().written_in(value, unit) if value else ""


@dataclass(frozen=True)
class CellSize(Form):
    """A wished cell, width and height in mm, or None for the largest that fits; typed as `20` or `20 x 15`."""

    least: float

    def check(self, value: Any, called: str) -> None:
        if value is not None and min(value) < self.least:
            raise CulmoError(tr("a cell must be at least {least:g} mm wide and high", least=self.least))

    def read(self, text: str, called: str) -> tuple[float, float] | None:
        if not text.strip():
            return None
        return size_mm(text)

    def write(self, value: Any) -> str:
        return "" if value is None else f"{value[0]:g} x {value[1]:g}"

    def written_in(self, value: Any, unit: str) -> str:
        return (
            self.write(value)
            if unit == LengthUnit.MM or value is None
            else size_text(value[0], value[1], unit)
        )

    def plain(self, value: Any) -> Any:
        return None if value is None else list(value)

    def of_plain(self, value: Any) -> tuple[float, float] | None:
        return (float(value[0]), float(value[1])) if value else None


class Flag(Form):
    """Yes or no."""

    def read(self, text: str, called: str) -> bool:
        return text == "yes"

    def write(self, value: Any) -> str:
        return "yes" if value else ""

    def of_plain(self, value: Any) -> bool:
        return bool(value)


@dataclass(frozen=True)
class OneOf(Form):
    """One of some words.

    Attributes
    ----------
    words : mapping from the value to what is read in the window
    typed : mapping from a value to how it is typed on the command line, where that is another word
    """

    words: Mapping[str, str]
    typed: Mapping[str, str] = field(default_factory=dict)

    def check(self, value: Any, called: str) -> None:
        if value not in self.words:
            raise CulmoError(
                tr(
                    '{called}: "{value}" must be one of {what}',
                    called=called,
                    value=value,
                    what=", ".join(self.choices),
                )
            )

    @property
    def choices(self) -> tuple[str, ...]:
        """What may be typed."""
        return tuple(self.typed.get(value, value) for value in self.words)

    def read(self, text: str, called: str) -> str:
        return next((value for value, typed in self.typed.items() if typed == text), text)

    def write(self, value: Any) -> str:
        return self.typed.get(value, str(value))

    def of_plain(self, value: Any) -> str:
        return str(value)


class SeveralWords(Form):
    """Several words, typed with commas between."""

    def read(self, text: str, called: str) -> tuple[str, ...]:
        return tuple(word.strip() for word in text.split(",") if word.strip())

    def write(self, value: Any) -> str:
        return ",".join(value)

    def plain(self, value: Any) -> Any:
        return list(value)

    def of_plain(self, value: Any) -> tuple[str, ...]:
        return tuple(str(word) for word in value)


@dataclass(frozen=True)
class InOrder(SeveralWords):
    """Some of several words in the painter's order, none of them needed; `words` are what is read in the window."""

    words: Mapping[str, str]

    def check(self, value: Any, called: str) -> None:
        for word in value:
            OneOf(self.words).check(word, called)
        if len(set(value)) != len(value):
            raise CulmoError(tr("{called}: one of them is named twice", called=called))


class Words(Form):
    """The painter's own words."""

    def of_plain(self, value: Any) -> str:
        return str(value)


@dataclass(frozen=True)
class OnePaint(Words):
    """The name of a paint, or nothing, quoted where it holds a comma; `dark` where it is usually the deepest one."""

    dark: bool = False

    def read(self, text: str, called: str) -> str:
        names = split_names(text)
        if len(names) > 1:
            raise CulmoError(
                tr(
                    '{called}: one paint is meant, and "{typed}" names {n}',
                    called=called,
                    typed=text,
                    n=len(names),
                )
            )
        return names[0] if names else ""

    def write(self, value: Any) -> str:
        return quoted_name(value)

    def renamed(self, plain: Any, rename: Rename) -> Any:
        return rename(str(plain))


class SomePaints(Form):
    """Names of paints, each once, in their order; typed with commas between, quoted where a name holds one."""

    def check(self, value: Any, called: str) -> None:
        if len({name.casefold() for name in value}) != len(value):
            raise CulmoError(tr("a sheet can not hold the same paint twice in one row"))

    def read(self, text: str, called: str) -> tuple[str, ...]:
        return tuple(split_names(text))

    def write(self, value: Any) -> str:
        return ", ".join(quoted_name(name) for name in value)

    def plain(self, value: Any) -> Any:
        return list(value)

    def of_plain(self, value: Any) -> tuple[str, ...]:
        return tuple(str(name) for name in value)

    def renamed(self, plain: Any, rename: Rename) -> Any:
        return [rename(str(name)) for name in plain] if isinstance(plain, list | tuple) else plain


@dataclass(frozen=True)
class Counts(Form):
    """Small whole numbers, typed with commas between; one is meant for all."""

    most: int

    def check(self, value: Any, called: str) -> None:
        for count in value:
            Whole(0, self.most).check(count, called)

    def read(self, text: str, called: str) -> tuple[int, ...]:
        return tuple(Whole(0, self.most).read(piece, called) for piece in text.split(",") if piece.strip())

    def write(self, value: Any) -> str:
        return ", ".join(str(count) for count in value)

    def plain(self, value: Any) -> Any:
        return list(value)

    def of_plain(self, value: Any) -> tuple[int, ...]:
        return tuple(int(count) for count in value)


class GivenParts(Form):
    """Pairs of parts; see `mixes.parts_of` for how they are typed."""

    def check(self, value: Any, called: str) -> None:
        for a, b in value:
            if not (isfinite(a) and isfinite(b)) or min(a, b) < 0 or a + b <= 0:
                raise CulmoError(
                    tr(
                        "parts of {a:g} : {b:g} can not be; they must not be negative, nor both nought",
                        a=a,
                        b=b,
                    )
                )

    def read(self, text: str, called: str) -> tuple[tuple[float, float], ...]:
        return parts_of(text)

    def write(self, value: Any) -> str:
        return ", ".join(f"{a:g}:{b:g}" for a, b in value)

    def plain(self, value: Any) -> Any:
        return [list(pair) for pair in value]

    def of_plain(self, value: Any) -> tuple[tuple[float, float], ...]:
        return tuple((float(a), float(b)) for a, b in value)


class Lines(Form):
    """Something typed one a line or with semicolons between."""


class SomeRecipes(Lines):
    """Recipes, typed one a line or with semicolons between."""

    def check(self, value: Any, called: str) -> None:
        if len(value) > MOST_RECIPES:
            raise CulmoError(
                tr("{n} recipes are too many for a page; {most} is the most", n=len(value), most=MOST_RECIPES)
            )

    def read(self, text: str, called: str) -> tuple[Recipe, ...]:
        pieces = (piece for line in text.splitlines() for piece in line.split(";"))
        return tuple(parse_recipe(piece.strip()) for piece in pieces if piece.strip())

    def write(self, value: Any) -> str:
        return "\n".join(format_recipe(recipe) for recipe in value)

    def plain(self, value: Any) -> Any:
        return [format_recipe(recipe) for recipe in value]

    def of_plain(self, value: Any) -> tuple[Recipe, ...]:
        return tuple(parse_recipe(str(text)) for text in value)

    def renamed(self, plain: Any, rename: Rename) -> Any:
        return (
            [renamed_recipe(str(text), rename) for text in plain]
            if isinstance(plain, list | tuple)
            else plain
        )


@dataclass(frozen=True)
class Option:
    """An option of a sheet.

    Attributes
    ----------
    form : Form
    default : what it is where nothing is chosen
    label : str, what it is called in the window
    help : str, what the command line says of it
    command : str, its name on the command line, without dashes; that of the field where empty
    hint : str, an example that stands in the empty field
    concerns : function of the options, whether it has a meaning with the others as they are; always where None
    first : what a new sheet in the window begins with, where that is not the default
    """

    form: Form
    default: Any
    label: str
    help: str = ""
    command: str = ""
    hint: str = ""
    concerns: Callable[[Any], bool] | None = None
    first: Any = None


def option(
    form: Form,
    default: Any,
    label: str,
    help: str = "",
    *,
    command: str = "",
    hint: str = "",
    concerns: Callable[[Any], bool] | None = None,
    first: Any = None,
) -> Any:
    """A field of an options class."""
    described = Option(form, default, label, help, command, hint, concerns, first)
    return field(default=default, metadata={"option": described})


@dataclass(frozen=True)
class Options:
    """What all options classes have in common."""

    def __post_init__(self) -> None:
        for name, own in self.described().items():
            own.form.check(getattr(self, name), own.label)

    @classmethod
    def described(cls) -> dict[str, Option]:
        """The options by the names of their fields, in order."""
        return {entry.name: entry.metadata["option"] for entry in fields(cls) if "option" in entry.metadata}

    @classmethod
    def typed(cls, given: Mapping[str, Any], lenient: bool = False) -> Self:
        """Options as they were typed; what is not given has its default.

        Parameters
        ----------
        given : mapping from the names of options to what was typed, or to values where nothing is typed
        lenient : bool, whether what can not be has its default too

        Raises
        ------
        CulmoError
            naming the option that can not be read, unless lenient
        """
        values = {}
        for name, own in cls.described().items():
            if name not in given:
                continue
            try:
                value = given[name]
                value = own.form.read(value, own.label) if isinstance(value, str) else value
                own.form.check(value, own.label)
            except CulmoError:
                if lenient:
                    continue
                raise
            values[name] = value
        return cls(**values)

    def texts(self, unit: str = LengthUnit.MM) -> dict[str, str]:
        """The options as they would be typed, lengths in a unit."""
        return {
            name: own.form.written_in(getattr(self, name), unit) for name, own in self.described().items()
        }

    def settings(self) -> dict[str, Any]:
        """The options as plain values, so that the sheet can be changed later."""
        return {name: own.form.plain(getattr(self, name)) for name, own in self.described().items()}

    @classmethod
    def of_settings(cls, settings: Mapping[str, Any]) -> Self:
        """Options as a sheet's file keeps them; what is missing, or makes no sense any more, has its default."""
        found: dict[str, Any] = {}
        for name, own in cls.described().items():
            if name in settings:
                try:
                    value = own.form.of_plain(settings[name])
                    own.form.check(value, own.label)
                except (CulmoError, TypeError, ValueError, IndexError, KeyError, OverflowError):
                    continue
                found[name] = value
        try:
            return cls(**found)
        except CulmoError:  # each is well by itself, and not with the others
            return cls()

    def concerned(self) -> Iterator[str]:
        """The names of the options that have a meaning with the others as they are."""
        for name, own in self.described().items():
            if own.concerns is None or own.concerns(self):
                yield name


def quoted_name(name: str) -> str:
    """A name as `split_names` reads it.

    Examples
    --------
    >>> quoted_name("Rose"), quoted_name("Blue, deep")
    ('Rose', '"Blue, deep"')
    """
    doubled = name.replace('"', '""')
    return f'"{doubled}"' if set(name) & set(',"') else name


def split_names(text: str) -> list[str]:
    """Names with commas between; a name that holds a comma stands in double quotes.

    Examples
    --------
    >>> split_names('Rose, "Blue, deep",Lemon')
    ['Rose', 'Blue, deep', 'Lemon']
    """
    names = next(csv.reader([text], skipinitialspace=True), [])
    return [name.strip() for name in names if name.strip()]
