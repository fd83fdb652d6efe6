"""Pigments by Colour Index name: what is generally known of them, for paints that have not been swatched."""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import within_lab
from culmo.core.paint.estimate import learn
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.readings import INK, PAPER, Reading
from culmo.core.paint.recipe import FULL, TINT, mix
from culmo.core.paint.typical import Belief, belief_about
from culmo.words import mark, tr

Lab = tuple[float, float, float]

COLOURS = {
    "PY": mark("yellow"),
    "PO": mark("orange"),
    "PR": mark("red"),
    "PV": mark("violet"),
    "PB": mark("blue"),
    "PG": mark("green"),
    "PBr": mark("brown"),
    "PBk": mark("black"),
    "PW": mark("white"),
    "PM": mark("metal"),
    "NR": mark("red"),
    "NB": mark("blue"),
    "NY": mark("yellow"),
}
TRANSPARENCIES = (mark("transparent"), mark("semi-transparent"), mark("semi-opaque"), mark("opaque"))
CLEAR = TRANSPARENCIES[:2]  # what is called transparent
STRENGTHS = (mark("weak"), mark("middling"), mark("strong"), mark("very strong"))
# how far the masstone over the bar comes from the bare ink towards the masstone on paper
_COVERS = {"transparent": 0.04, "semi-transparent": 0.12, "semi-opaque": 0.3, "opaque": 0.65}
_SURE = {"good": 6.0, "fair": 9.0, "rough": 13.0}
_FREELY = 2.0  # times as far as usual about its pigment a paint may wander of which a part was read
_OF_A_MIXTURE = 1.6  # times as far where a label names several pigments, in parts that nobody knows
_INK_LAB = np.array([24.0, 0.0, 0.0])
GRAINS = {"no": 0.02, "slight": 0.1, "medium": 0.2, "high": 0.32}
_CODE = re.compile(r"\b(PBr|PBk|PY|PO|PR|PV|PB|PG|PW|PM|NR|NB|NY)\s*(\d{1,3}(?::\d)?)\b", re.IGNORECASE)


@dataclass(frozen=True)
class Pigment:
    """A row of the table of general knowledge.

    Attributes
    ----------
    code : str, Colour Index Generic Name
    name : str, in the user's language
    family : str
    masstone, tint : (L, a, b), typical appearance of a full wash and of a tint on white paper
    transparency : str, one of TRANSPARENCIES
    staining : str, "low", "medium" or "high"
    granulation : str, "no", "slight", "medium" or "high"
    strength : str, in mixes, one of STRENGTHS
    lightfastness : str, "excellent", "good", "fair" or "poor"
    caution : str, the elements that call for care, with spaces between; empty where none is listed
    sure : str, how sure the entry is: "good", "fair" or "rough"
    """

    code: str
    name: str
    family: str
    masstone: Lab
    tint: Lab
    transparency: str
    staining: str
    granulation: str
    strength: str
    lightfastness: str
    caution: str
    sure: str

    @property
    def spread(self) -> float:
        """How far a paint with this pigment may lie from the entry, in CIELAB units."""
        return _SURE[self.sure]

    @property
    def grain(self) -> float:
        """How much it granulates, 0..1."""
        return GRAINS[self.granulation]


def pigment_from_row(row: Mapping[str, str]) -> Pigment:
    """An entry from a row of the table.

    Parameters
    ----------
    row : mapping of column to text
    """

    def lab(head: str) -> Lab:
        return float(row[f"{head}_L"]), float(row[f"{head}_a"]), float(row[f"{head}_b"])

    words = ("transparency", "staining", "granulation", "strength", "lightfastness", "caution", "sure")
    return Pigment(
        row["code"], tr(row["name"]), row["family"], lab("mass"), lab("tint"), *(row[word] for word in words)
    )


def codes_in(text: str) -> list[str]:
    """The Colour Index names in a text, in their usual spelling, each once.

    Parameters
    ----------
    text : str

    Examples
    --------
    >>> codes_in("pg7 + PY 150, granulating")
    ['PG7', 'PY150']
    """
    usual = {head.casefold(): head for head in COLOURS}
    found = [f"{usual[head.casefold()]}{number}" for head, number in _CODE.findall(text)]
    return list(dict.fromkeys(found))


def _over_ink(pigment: Pigment) -> Lab:
    share = _COVERS[pigment.transparency]
    L, a, b = (1.0 - share) * _INK_LAB + share * np.array(pigment.masstone)
    return float(L), float(a), float(b)


def _card(name: str, masstone: Lab, tint: Lab, bar: Lab, spread: float) -> list[tuple[Reading, float]]:
    return [
        (Reading(mix([name]), masstone), spread),
        (Reading(mix([name], wash=TINT), tint), spread),
        (Reading(mix([name]), bar, INK), spread),
    ]


def typical_card(name: str, codes: str, table: Mapping[str, Pigment]) -> list[tuple[Reading, float]]:
    """What the card of a paint would typically show, from its codes.

    Parameters
    ----------
    name : str, the paint's
    codes : str, as on the label
    table : from Colour Index name to Pigment

    Returns
    -------
    list of (Reading, standard deviation in CIELAB units); empty where no code is known
    """
    known = [table[code] for code in codes_in(codes) if code in table]
    if not known:
        return []
    spread = max(pigment.spread for pigment in known)
    if len(known) == 1:
        return _card(name, known[0].masstone, known[0].tint, _over_ink(known[0]), spread)
    # a mixture on the label: its pigments are mixed by the model, in parts that nobody knows
    readings = [
        entry
        for pigment in known
        for entry in _card(pigment.code, pigment.masstone, pigment.tint, _over_ink(pigment), 1.0)
    ]
    estimate = learn([pigment.code for pigment in known], [], readings)
    whole = mix([pigment.code for pigment in known])
    found = predict_lab(estimate, [whole, whole.with_wash(TINT), whole], [PAPER, PAPER, INK])
    masstone, tint, bar = ((float(L), float(a), float(b)) for L, a, b in within_lab(found))
    return _card(name, masstone, tint, bar, spread + 6.0)


def belief_of(
    codes: str, table: Mapping[str, Pigment], curves: Mapping[str, tuple[Array, Array]], freely: float = 1.0
) -> Belief | None:
    """What is believed of a paint by the codes on its label; None where none is known.

    Parameters
    ----------
    codes : str, as on the label
    table : from Colour Index name to Pigment
    curves : from Colour Index name to (K, S), each (36,) float
    freely : float, times as far as such a paint usually wanders
    """
    known = [code for code in codes_in(codes) if code in table and code in curves]
    if not known:
        return None
    scale = freely * max(table[code].spread for code in known) / _SURE["good"]
    K = np.mean([curves[code][0] for code in known], axis=0)
    S = np.mean([curves[code][1] for code in known], axis=0)
    return belief_about(
        f"{freely:g} {' '.join(known)}", K, S, scale * (_OF_A_MIXTURE if len(known) > 1 else 1.0)
    )


def beliefs_of(
    paints: Sequence[tuple[str, str]],
    readings: Sequence[Reading],
    table: Mapping[str, Pigment],
    curves: Mapping[str, tuple[Array, Array]],
) -> dict[str, Belief]:
    """What is believed by their codes of those paints whose masstone and tint the painter has not both read.

    A paint's own card says more of it than its pigment does, so that a paint with one is believed to be any paint; one of
    which a part was read wanders freely about its pigment, since that part is met as well. Held against the laboratory of
    the other physics: see docs/model.md.

    Parameters
    ----------
    paints : sequence of (name, codes)
    readings : sequence of Reading, the painter's own
    table : from Colour Index name to Pigment
    curves : from Colour Index name to (K, S), each (36,) float

    Returns
    -------
    dict from folded name to Belief, for `estimate.learn`
    """
    read, found = read_places(readings), {}
    for name, codes in paints:
        own = {wash for wash, ground in read.get(name.casefold(), ()) if ground == PAPER}
        if {FULL, TINT} <= own:
            continue
        belief = belief_of(codes, table, curves, _FREELY if own else 1.0)
        if belief is not None:
            found[name.casefold()] = belief
    return found


def told_by_pigments(
    paints: Sequence[tuple[str, str]],
    readings: Sequence[Reading],
    table: Mapping[str, Pigment],
    curves: Mapping[str, tuple[Array, Array]],
) -> tuple[list[tuple[Reading, float]], dict[str, Belief]]:
    """What the codes tell of the paints beside what was read: typical readings, and beliefs where the card says too little.

    Parameters
    ----------
    paints, readings, table, curves : as in `beliefs_of`

    Returns
    -------
    list of (Reading, standard deviation) and dict from folded name to Belief, for `problem.prepare`
    """
    beliefs = beliefs_of(paints, readings, table, curves)
    others = [(name, codes) for name, codes in paints if name.casefold() not in beliefs]
    return typical_readings(others, readings, table), beliefs


def read_places(readings: Iterable[Reading]) -> dict[str, set[tuple[float, str]]]:
    """Which places of each paint's card have been read: folded name to a set of (wash, ground).

    Parameters
    ----------
    readings : iterable of Reading
    """
    places: dict[str, set[tuple[float, str]]] = {}
    for reading in readings:
        if reading.teaches and reading.recipe.is_pure:
            name = reading.recipe.names[0].casefold()
            places.setdefault(name, set()).add((reading.recipe.layers[0].wash, reading.ground))
    return places


def typical_readings(
    paints: Sequence[tuple[str, str]], readings: Sequence[Reading], table: Mapping[str, Pigment]
) -> list[tuple[Reading, float]]:
    """General knowledge for those places of the paints' cards that the painter has not read.

    Parameters
    ----------
    paints : sequence of (name, codes)
    readings : sequence of Reading, the painter's own
    table : from Colour Index name to Pigment

    Returns
    -------
    list of (Reading, standard deviation), for `estimate.learn`
    """
    read = read_places(readings)
    result = []
    for name, codes in paints:
        own = read.get(name.casefold(), set())
        if len(own) >= 3:
            continue
        for reading, spread in typical_card(name, codes, table):
            if (reading.recipe.layers[0].wash, reading.ground) not in own:
                result.append((reading, spread))
    return result


def never_seen(
    paints: Sequence[tuple[str, str]], readings: Iterable[Reading], table: Mapping[str, Pigment]
) -> set[str]:
    """The folded names of paints of which nothing at all is known: no code that the table has, and nothing read.

    Parameters
    ----------
    paints : sequence of (name, codes)
    readings : iterable of Reading, the painter's own; one of a mix tells of each of its paints
    table : from Colour Index name to Pigment
    """
    read = {name.casefold() for reading in readings if reading.teaches for name in reading.recipe.names}
    return {
        name.casefold()
        for name, codes in paints
        if name.casefold() not in read and not any(code in table for code in codes_in(codes))
    }
