"""What a painter should know before trusting a paint: what its name, its codes and its own tests do not agree on."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from culmo.core.paint.label import GRAIN_WORDS, KEEPS, LIGHTFASTNESS, STAINING_WORDS, Fact, Label
from culmo.core.paint.pigments import TRANSPARENCIES, codes_in
from culmo.words import listed, tr

# what a word in a name promises, in English and in German, and the pigments that keep the promise; by the Colour Index
_PROMISES: tuple[tuple[str, str], ...] = (
    (r"[ck]admium", "PY35 PY37 PO20 PR108"),
    (r"(?:ceruleum|cerulean|c(?:oe|ö)lin)", "PB35 PB36"),
    (r"[ck]obalt", "PB28 PB35 PB36 PB72 PB74 PG19 PG26 PG50 PV14 PV49 PY40"),
    (r"ultramarine?", "PB29 PV15 PR259"),
    (r"viridian|chromoxidhydratgrün", "PG18"),
    (r"chrom(?:ium oxide|oxidgrün)", "PG17 PG18"),
    (r"mangan(?:ese)?", "PB33 PV16 PB86 PBr8 PBk26"),
    (r"ali[sz]arin", "PR83"),
    (r"(?:qu|ch)ina[ck]ridone?", "PV19 PV42 PV55 PR122 PR192 PR202 PR206 PR207 PR209 PO48 PO49"),
    (r"ph?t?halo(?:cyanine?)?", "PB15 PB16 PB17 PG7 PG36"),
    (r"prussian|preu(?:ß|ss)isch|berliner", "PB27"),
    (r"indanthrone?", "PB60"),
    (r"dioxa[sz]ine?", "PV23 PV37"),
    (r"perylene?", "PR149 PR178 PR179 PR224 PV29 PBk31"),
    (r"pyrrole?", "PR254 PR255 PR264 PO71 PO73"),
    (r"vermilion|zinnober", "PR106"),
    (r"aureolin", "PY40"),
    (r"(?:chrome yellow|chromgelb)", "PY34"),
    (r"(?:ochre|ocker)", "PY42 PY43 PR101 PR102"),
    (r"(?:sienn?a)", "PBr7 PBr6 PY42 PY43 PR101 PR102"),
    (r"(?:umber|umbra)", "PBr7 PBr6 PBr8 PY43 PR101"),
    (r"zin[ck](?: white|weiß)", "PW4"),
    (r"titan(?:ium)?(?: white|weiß)", "PW6"),
    (r"(?:green earth|terre verte|grüne erde)", "PG23"),
    (r"(?:ivory|elfenbein)", "PBk9"),
    (r"(?:madder|krapp)", "NR9 PR83"),
    (r"indigo", "NB1 PB66"),
    (r"(?:gamboge|gummigutt?i?)", "NY24"),
    (r"(?:carmine|karmin)", "NR4"),
)
_PATTERNS = tuple(
    (re.compile(rf"(?<!\w){pattern}(?![\s-]?(?:free|frei))", re.IGNORECASE), frozenset(codes.split()))
    for pattern, codes in _PROMISES
)
_A_HUE = re.compile(r"(?<!\w)(?:hue|imit(?:\.|ation)?|substitute|farbton|ersatz)(?!\w)", re.IGNORECASE)
_MANY = 3


class Doubt(StrEnum):
    """A kind of doubt."""

    UNKNOWN = "unknown"
    MISNAMED = "misnamed"
    MANY = "many pigments"
    FUGITIVE = "fugitive"
    UNRATED = "unrated"
    SAME = "same pigment"
    CONTRADICTED = "contradicted"


@dataclass(frozen=True)
class Caution:
    """A doubt about a paint.

    Attributes
    ----------
    kind : Doubt
    words : str, a sentence of what it means
    """

    kind: Doubt
    words: str


def broken_promise(name: str, codes: str) -> str:
    """The word of a name that promises a pigment which the codes do not name; empty where none does, or no code is known.

    Parameters
    ----------
    name : str, of the paint, in English or German
    codes : str, as on the label

    Examples
    --------
    >>> broken_promise("Cobalt blue", "PB15:3, PW6"), broken_promise("Cobalt blue", "PB28")
    ('Cobalt', '')
    """
    named = {code.partition(":")[0] for code in codes_in(codes)}
    if not named:
        return ""
    hue = _A_HUE.search(name)
    for pattern, kept in _PATTERNS:
        found = pattern.search(name)
        if found and not named & kept:
            return found[0]
    return hue[0] if hue else ""


def doubts(name: str, codes: str, label: Label, others: Mapping[str, str], needs: str = "") -> list[Caution]:
    """What to doubt about a paint, the gravest first; nothing of it says that the rest is in order.

    Parameters
    ----------
    name, codes : str, as on the label
    label : Label, what is known of it
    others : from the names of the other paints to their codes
    needs : str, what it needs before anything can be foretold of it; empty where enough is known
    """
    found = [Caution(Doubt.UNKNOWN, needs)] if needs else []
    found += _fading(label)
    found += [
        Caution(Doubt.CONTRADICTED, _contradiction(key, fact))
        for key, fact in label.facts.items()
        if _far_apart(key, fact)
    ]
    promise = broken_promise(name, codes)
    if promise:
        words = tr(
            'its name says "{word}", and it is made of {codes}', word=promise, codes=", ".join(label.codes)
        )
        found.append(Caution(Doubt.MISNAMED, words))
    if len(label.codes) >= _MANY:
        words = tr(
            "a mixture of {count} pigments: its mixes grow dull sooner, and their tubes differ more",
            count=len(label.codes),
        )
        found.append(Caution(Doubt.MANY, words))
    own = sorted(codes_in(codes))
    same = [other for other, theirs in others.items() if own and sorted(codes_in(theirs)) == own]
    if same:
        found.append(Caution(Doubt.SAME, tr("of the same pigments as {what}", what=listed(same))))
    return found


def _fading(label: Label) -> list[Caution]:
    fact = label.facts["lightfastness"]
    if fact.word in ("poor", "fair"):
        words = tr("fades") if fact.word == "poor" else tr("may change in the light")
        weak = [p.code for p in label.pigments if p.lightfastness == fact.word]
        if weak and not fact.contradicted:
            words = tr("{words}: {codes}", words=words, codes=", ".join(weak))
        return [Caution(Doubt.FUGITIVE, f"{words} ({fact.basis})")]
    if not fact.word and label.codes:
        return [Caution(Doubt.UNRATED, tr("nothing is known of its lightfastness: make a fade test"))]
    return []


def _far_apart(key: str, fact: Fact) -> bool:
    """Whether one's own test and the label part by more than a step, which two careful people may differ by."""
    scale = _SCALES.get(key)
    if scale is None or not fact.contradicted or fact.word not in scale or fact.claimed not in scale:
        return False
    if key == "lightfastness":  # what keeps, and what does not
        return (fact.word in KEEPS) != (fact.claimed in KEEPS)
    return abs(scale.index(fact.word) - scale.index(fact.claimed)) > 1


def _contradiction(key: str, fact: Fact) -> str:
    own, claimed = (_WORDS.get(key, {}).get(word) or tr(word) for word in (fact.word, fact.claimed))
    said = {
        "transparency": tr("your bar: {own}; the label: {claimed}", own=own, claimed=claimed),
        "staining": tr("your lifted patch: {own}; the label: {claimed}", own=own, claimed=claimed),
        "granulation": tr("your own look: {own}; the label: {claimed}", own=own, claimed=claimed),
        "lightfastness": tr("your fade test: {own}; the label: {claimed}", own=own, claimed=claimed),
    }
    return said[key]


_WORDS: Mapping[str, Mapping[str, str]] = {"staining": STAINING_WORDS, "granulation": GRAIN_WORDS}
_SCALES: Mapping[str, tuple[str, ...]] = {
    "transparency": TRANSPARENCIES,
    "staining": tuple(STAINING_WORDS),
    "granulation": tuple(GRAIN_WORDS),
    "lightfastness": LIGHTFASTNESS,
}


def most_serious(cautions: Sequence[Caution]) -> str:
    """The first words of some doubts, with how many there are besides; empty where there are none."""
    if not cautions:
        return ""
    more = len(cautions) - 1
    return cautions[0].words if not more else tr("{words} (+{more})", words=cautions[0].words, more=more)
