"""The recipe text: what went into a cell, in which parts, how thin, and over what."""

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from math import log
from typing import TypeVar

from culmo.errors import CulmoError
from culmo.words import decimal, mark, tr

_T = TypeVar("_T")

Rename = Callable[[str], str]

FULL = 1.0
TINT = 0.2


@dataclass(frozen=True)
class Part:
    """One paint's share of a puddle.

    Attributes
    ----------
    name : str, the paint's name, not empty
    parts : float, > 0, volume of an equally strong puddle
    """

    name: str
    parts: float = 1.0

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise CulmoError(tr("a part of a recipe needs the name of a paint"))
        if not 0.0 < self.parts < 1e6:
            raise CulmoError(
                tr(
                    'the parts of "{name}" are {parts:g}; they must lie above 0',
                    name=self.name,
                    parts=self.parts,
                )
            )


@dataclass(frozen=True)
class Layer:
    """One wash: paints mixed in a puddle, laid at a strength.

    Attributes
    ----------
    parts : tuple of Part, at least one
    wash : float, 0 < wash <= 1, film strength relative to a full wash
    """

    parts: tuple[Part, ...]
    wash: float = FULL

    def __post_init__(self) -> None:
        if not self.parts:
            raise CulmoError(tr("a layer of a recipe needs at least one paint"))
        if not 0.0 < self.wash <= 1.0:
            raise CulmoError(tr("the wash is {wash:g}; it must lie above 0 and not above 1", wash=self.wash))


@dataclass(frozen=True)
class Recipe:
    """Layers, the top one first; no layers is the bare ground, written `-`."""

    layers: tuple[Layer, ...] = ()

    def __str__(self) -> str:
        return format_recipe(self)

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        """Recipes are keys wherever colours are kept, and are nested: the sum is made once."""
        return hash(self.layers)

    @cached_property
    def full(self) -> "Recipe":
        """The same with the top layer at full strength."""
        return self.with_wash(FULL)

    @cached_property
    def names(self) -> tuple[str, ...]:
        """The paints' names in order of appearance, each once (compared without case)."""
        seen: dict[str, str] = {}
        for layer in self.layers:
            for part in layer.parts:
                seen.setdefault(part.name.casefold(), part.name)
        return tuple(seen.values())

    @cached_property
    def is_pure(self) -> bool:
        """Whether one paint alone, in one layer, makes it."""
        return len(self.layers) == 1 and len(self.names) == 1

    @cached_property
    def key(self) -> "Recipe":
        """The same recipe with folded names, merged and sorted parts, for comparing."""
        layers = []
        for layer in self.layers:
            amounts: dict[str, float] = {}
            for part in layer.parts:
                folded = part.name.strip().casefold()
                amounts[folded] = amounts.get(folded, 0.0) + part.parts
            total = sum(amounts.values())
            parts = tuple(Part(name, round(amounts[name] / total, 9)) for name in sorted(amounts))
            layers.append(Layer(parts, layer.wash))
        return Recipe(tuple(layers))

    def with_wash(self, wash: float) -> "Recipe":
        """The same with the top layer at another strength."""
        if not self.layers:
            return self
        return Recipe((replace(self.layers[0], wash=wash), *self.layers[1:]))

    def renamed(self, rename: Rename) -> "Recipe":
        """The same with every paint's name put through `rename`."""
        return Recipe(
            tuple(
                Layer(tuple(Part(rename(part.name), part.parts) for part in layer.parts), layer.wash)
                for layer in self.layers
            )
        )


def mix(names: Iterable[str], parts: Iterable[float] | None = None, wash: float = FULL) -> Recipe:
    """A recipe of one layer.

    Parameters
    ----------
    names : iterable of str
    parts : iterable of float, or None for equal parts
    wash : float, 0 < wash <= 1

    Examples
    --------
    >>> str(mix(["Rose", "Ultramarine"], [3, 1]))
    'Rose:3 + Ultramarine'
    """
    names = list(names)
    amounts = [1.0] * len(names) if parts is None else list(parts)
    return Recipe((Layer(tuple(Part(n, p) for n, p in zip(names, amounts, strict=True)), wash),))


def format_number(value: float) -> str:
    """The shortest decimal text that reads back as the same number, without an exponent where possible."""
    text = repr(float(value))
    return text[:-2] if text.endswith(".0") else text


def _format_name(name: str) -> str:
    plain = name == name.strip() and name != "-" and '"' not in name
    # a name next to a separator's half ("+ Rose", "x +") would merge with it into a separator
    padded = f" {name} "
    if plain and not any(mark in padded for mark in (" + ", " over ")) and not set(name) & set(":@"):
        return name
    return '"' + name.replace('"', '""') + '"'


def format_recipe(recipe: Recipe) -> str:
    """The recipe as text; `parse_recipe` reads it back unchanged."""
    if not recipe.layers:
        return "-"
    texts = []
    for layer in recipe.layers:
        parts = [
            _format_name(part.name) + ("" if part.parts == 1.0 else f":{format_number(part.parts)}")
            for part in layer.parts
        ]
        text = " + ".join(parts)
        if layer.wash != FULL:
            text += " @ tint" if layer.wash == TINT else f" @ {format_number(layer.wash)}"
        texts.append(text)
    return " over ".join(texts)


def spoken_recipe(recipe: Recipe) -> str:
    """The recipe as a painter would say it, for reading only.

    Examples
    --------
    >>> spoken_recipe(mix(["Rose", "Ultramarine"], [3, 1], 0.2))
    '3 Rose + 1 Ultramarine, tint'
    """
    if not recipe.layers:
        return tr("bare paper")
    texts = []
    for layer in recipe.layers:
        equal = len({part.parts for part in layer.parts}) == 1
        names = [part.name if equal else f"{format_number(part.parts)} {part.name}" for part in layer.parts]
        texts.append(" + ".join(names) + wash_words(layer.wash))
    return tr(" over ").join(texts)


_WASH_NAMES = (
    (0.13, mark("palest tint")), (0.25, mark("tint")), (0.38, mark("pale wash")), (0.6, mark("middle wash")),
    (0.93, mark("strong wash")),
)  # fmt: skip
# parts of water to one of the puddle, and how that is said
_WATERS = (
    (0.25, mark("a little water")), (0.5, mark("two to one of water")), (1.0, mark("one to one of water")),
    (1.5, mark("two to three of water")), (2.0, mark("one to two of water")), (3.0, mark("one to three of water")),
    (4.0, mark("one to four of water")), (5.0, mark("one to five of water")), (6.0, mark("one to six of water")),
    (8.0, mark("one to eight of water")), (10.0, mark("one to ten of water")), (15.0, mark("one to fifteen of water")),
    (20.0, mark("one to twenty of water")),
)  # fmt: skip


def wash_name(wash: float) -> str:
    """What painters call a wash.

    Parameters
    ----------
    wash : float, 0 < wash <= 1, film strength relative to a full wash
    """
    return tr(next((name for limit, name in _WASH_NAMES if wash < limit), "full wash"))


def water_words(wash: float) -> str:
    """How much water makes a wash of a puddle at full strength, in words; empty for a full wash.

    Examples
    --------
    >>> water_words(0.45), water_words(0.33)
    ('one to one of water', 'one to two of water')
    """
    if wash >= FULL:
        return ""
    parts = (FULL - wash) / wash
    return tr(min(_WATERS, key=lambda water: abs(log(water[0] / parts)))[1])


def wash_words(wash: float) -> str:
    """What is said of a wash behind its paints; nothing of a full one."""
    if wash >= FULL:
        return ""
    if wash == TINT:
        return ", " + tr("tint")
    return ", " + tr("{name} ({water})", name=wash_name(wash), water=water_words(wash))


_SEPARATOR = re.compile(r"[:@]| \+ | over ")


class _Reader:
    """Reads a recipe text from left to right and knows where it is."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.at = 0

    def fail(self, what: str, at: int | None = None) -> CulmoError:
        place = (self.at if at is None else at) + 1
        return CulmoError(
            tr('recipe "{what}", character {place}: {what2}', what=self.text, place=place, what2=what)
        )

    def skip_space(self) -> None:
        while self.at < len(self.text) and self.text[self.at].isspace():
            self.at += 1

    def quoted(self) -> str:
        start = self.at
        self.at += 1
        letters: list[str] = []
        while self.at < len(self.text):
            if self.text[self.at] == '"':
                if self.text[self.at : self.at + 2] != '""':
                    self.at += 1
                    return "".join(letters)
                self.at += 1
            letters.append(self.text[self.at])
            self.at += 1
        raise self.fail(tr("the quote that opens here is never closed"), start)

    def plain(self) -> str:
        """Text up to the next separator."""
        start = self.at
        found = _SEPARATOR.search(self.text, start)
        self.at = found.start() if found is not None else len(self.text)
        return self.text[start : self.at].strip()

    def name(self) -> str:
        self.skip_space()
        start = self.at
        if self.text[self.at : self.at + 1] == '"':
            name = self.quoted()
        else:
            name = self.plain()
            if name.endswith((" +", " over")) or name.startswith("+ "):
                raise self.fail(tr("the name of a paint is missing beside the sign"), start)
        if not name.strip():
            raise self.fail(tr("the name of a paint is missing"), start)
        return name

    def number(self, what: str, words: dict[str, float]) -> float:
        self.skip_space()
        start = self.at
        word = self.plain()
        if word.casefold() in words:
            return words[word.casefold()]
        try:
            value = float(word)
        except ValueError:
            raise self.fail(tr('{what} "{word}" is not a number', what=what, word=word), start) from None
        return value

    def sign(self) -> str:
        """The separator that stands here, or an empty string at the end."""
        if any(self.text.startswith(mark, self.at) for mark in (" + ", " over ")):
            mark = " + " if self.text.startswith(" + ", self.at) else " over "
            self.at += len(mark) - 1  # the closing space may open the next separator's error
            return mark.strip()
        self.skip_space()
        if any(self.text.startswith(mark, self.at - 1) for mark in (" + ", " over ")):
            self.at -= 1
            return self.sign()
        if self.at >= len(self.text):
            return ""
        letter = self.text[self.at]
        if letter in ":@":
            self.at += 1
            return letter
        raise self.fail(tr('expected ":", " + ", " @ " or " over " here'))


def in_proportion(amounts: Iterable[float]) -> str:
    """Amounts beside each other, to be read; numbers as they are written in the place.

    Examples
    --------
    >>> in_proportion([1, 2.5])
    '1 : 2.5'
    """
    return " : ".join(decimal(f"{amount:g}") for amount in amounts)


def parse_recipe(text: str) -> Recipe:
    """Reads a recipe.

    Parameters
    ----------
    text : str, as in the formats page: `Rose:3 + Ultramarine @ tint over Lemon`; `-` is the bare ground

    Raises
    ------
    CulmoError
        saying where the text goes wrong

    Examples
    --------
    >>> parse_recipe("Sepia @ 0.2 over Lemon @ full").layers[0].wash
    0.2
    """
    return _parsed(text)


@lru_cache(maxsize=1 << 15)  # a study of years names the same recipes again at every look
def _parsed(text: str) -> Recipe:
    if text.strip() == "-":
        return Recipe()
    if len(text) > 4000:
        raise CulmoError(tr("a recipe of {n} characters is too long; the limit is 4000", n=len(text)))
    reader = _Reader(text)
    layers: list[Layer] = []
    parts: list[Part] = []
    wash = FULL
    while True:
        start = reader.at
        name, amount = reader.name(), 1.0
        sign = reader.sign()
        if sign == ":":
            amount = reader.number(tr("the parts"), {})
            sign = reader.sign()
        parts.append(_checked(reader, start, Part, name, amount))
        if sign == "@":
            wash = reader.number(tr("the wash"), {"full": FULL, "tint": TINT})
            sign = reader.sign()
            if sign not in ("", "over"):
                raise reader.fail(tr('after the wash only " over " can follow'))
        if sign in ("", "over"):
            layers.append(_checked(reader, start, Layer, tuple(parts), wash))
            parts, wash = [], FULL
        if sign == "":
            return Recipe(tuple(layers))
        if sign in (":",):
            raise reader.fail(tr("a second number for the same paint"))


def _checked(reader: _Reader, at: int, make: Callable[..., _T], *values: object) -> _T:
    try:
        return make(*values)
    except CulmoError as error:
        raise reader.fail(str(error), at) from None


def renaming(old: str, new: str) -> Rename:
    """A function that gives the new name for the old one, however it is written, and any other as it is."""
    folded = old.strip().casefold()
    return lambda name: new if name.strip().casefold() == folded else name


def renamed_recipe(text: str, rename: Rename) -> str:
    """A recipe's text with its paints put through `rename`; unchanged where it names none of them."""
    recipe = parse_recipe(text)
    other = recipe.renamed(rename)
    return text if other == recipe else format_recipe(other)
