"""What a label claims, as words: found in a line that a painter typed, and written so that they are found again."""

import re
from collections.abc import Mapping
from dataclasses import dataclass

from culmo import words
from culmo.core.paint.label import GRAIN_WORDS, LIGHTFASTNESS, STAINING_WORDS
from culmo.words import tr

LABEL_KEYS = ("transparency", "staining", "granulation", "lightfastness")
GAP = " \t "  # where something was taken out of a line
# what a word on the line claims: words, field, value; English is understood in every language
_ENGLISH_CLAIMS: tuple[tuple[str, str, str], ...] = (
    (r"(?:non|not)[\s-]?staining|(?:does not|no longer) stains?|lifts (?:well|easily)", "staining", "low"),
    ("(?:strongly|highly|very) staining|high staining", "staining", "high"),
    (r"(?:slightly|low) staining", "staining", "low"),
    (r"semi[\s-]?staining|medium staining", "staining", "medium"),
    (r"staining|stains", "staining", "high"),
    (r"(?:non|not|no longer)[\s-]?granulat(?:ing|es)|does not granulate|smooth", "granulation", "no"),
    ("(?:strongly|highly|very) granulating", "granulation", "high"),
    ("slightly granulating|granulates a little", "granulation", "slight"),
    (r"granulating|granulates|granular", "granulation", "medium"),
    (r"semi[\s-]?transparent", "transparency", "semi-transparent"),
    (r"semi[\s-]?opaque", "transparency", "semi-opaque"),
    (r"transparent", "transparency", "transparent"),
    (r"opaque", "transparency", "opaque"),
    # the Roman figures are the classes of the standard for artists' paints, I the fastest
    (r"lightfast(?:ness)?:?\s*(?:excellent|I)|excellent lightfastness", "lightfastness", "excellent"),
    (r"lightfast(?:ness)?:?\s*(?:very good|good|II)|(?:very )?good lightfastness", "lightfastness", "good"),
    (r"lightfast(?:ness)?:?\s*(?:fair|moderate|III)|(?:fair|moderate) lightfastness", "lightfastness", "fair"),
    (r"lightfast(?:ness)?:?\s*(?:poor|IV|V)|poor lightfastness|(?:not|non)[\s-]?lightfast", "lightfastness", "poor"),
    (r"fugitive|fades", "lightfastness", "poor"),
    (r"lightfast", "lightfastness", "good"),
    ("wished(?: for)?|wish ?list|considered|considering", "status", "wished"),
    ("(?:dot|sample)(?: only| card)?|sampled", "status", "sample"),
    (r"owned", "status", "owned"),
    (r"full pan", "pan", "full"),
    (r"half pan", "pan", "half"),
)  # fmt: skip
_OWN_CLAIMS: dict[str, tuple[tuple[str, str, str], ...]] = {
    "de": (
        (r"nicht färbend|färbt nicht|gut auswaschbar", "staining", "low"),
        (r"(?:stark|sehr) färbend|färbt stark", "staining", "high"),
        (r"(?:leicht|schwach|wenig) färbend", "staining", "low"),
        (r"mäßig färbend|färbt ein wenig", "staining", "medium"),
        (r"färbend|färbt", "staining", "high"),
        (r"nicht granulierend|granuliert nicht|glatt", "granulation", "no"),
        (r"(?:stark|sehr) granulierend|granuliert stark", "granulation", "high"),
        (r"(?:leicht|schwach|wenig) granulierend|granuliert ein wenig", "granulation", "slight"),
        (r"granulierend|granuliert", "granulation", "medium"),
        (r"halb[\s-]?(?:transparent|lasierend)", "transparency", "semi-transparent"),
        (r"halb[\s-]?(?:opak|deckend)", "transparency", "semi-opaque"),
        (r"lasierend", "transparency", "transparent"),
        (r"deckend|opak", "transparency", "opaque"),
        (r"Lichtechtheit:?\s*(?:ausgezeichnet|hervorragend|I)", "lightfastness", "excellent"),
        (r"Lichtechtheit:?\s*(?:sehr gut|gut|II)", "lightfastness", "good"),
        (r"Lichtechtheit:?\s*(?:mäßig|befriedigend|III)", "lightfastness", "fair"),
        (r"Lichtechtheit:?\s*(?:gering|schlecht|IV|V)", "lightfastness", "poor"),
        (r"nicht lichtecht|verblasst|flüchtig", "lightfastness", "poor"),
        (r"lichtecht", "lightfastness", "good"),
        (r"(?:nur )?(?:gewünscht|erwogen)", "status", "wished"),
        (r"(?:nur )?(?:eine )?(?:Probe|Probekarte)", "status", "sample"),
        (r"vorhanden", "status", "owned"),
        (r"ganzer Napf", "pan", "full"),
        (r"halber Napf", "pan", "half"),
    ),
}
_CLAIM_PATTERNS = tuple(
    (re.compile(rf"(?<!\w)(?:{pattern})(?!\w)", re.IGNORECASE), key, value)
    for pattern, key, value in (*_OWN_CLAIMS.get(words.language(), ()), *_ENGLISH_CLAIMS)
)
# what a text holds that speaks of a property: looked for first, since it is quick
_STEMS = {
    "granulation": ("granul", "smooth", "glatt"),
    "staining": ("stain", "färb", "lifts", "auswasch"),
    "transparency": ("transp", "opa", "lasier", "deck"),
    "lightfastness": ("light", "lichte", "fugit", "fades", "verblass", "flücht"),
}
# which words of the table are meant by a property that is named plainly: "granulating" is also what granulates a little
_MEANT = {
    ("granulation", "medium"): frozenset({"slight", "medium", "high"}),
    ("staining", "high"): frozenset({"medium", "high"}),
    ("lightfastness", "good"): frozenset({"excellent", "good"}),
}
_TYPED = {
    ("staining", "low"): tr("non-staining"), ("staining", "medium"): tr("semi-staining"),
    ("staining", "high"): tr("staining"),
    ("granulation", "no"): tr("non-granulating"), ("granulation", "slight"): tr("slightly granulating"),
    ("granulation", "medium"): tr("granulating"), ("granulation", "high"): tr("strongly granulating"),
    ("lightfastness", "excellent"): tr("excellent lightfastness"),
    ("lightfastness", "good"): tr("good lightfastness"), ("lightfastness", "fair"): tr("fair lightfastness"),
    ("lightfastness", "poor"): tr("fugitive"),
}  # fmt: skip
# classes of the standard, and the blue wool scale where its numbers can not mean a maker's own count from one
_LIGHTFAST_CELLS = {
    **dict.fromkeys(("i", "excellent", "ausgezeichnet", "hervorragend", "7", "8", "7-8"), "excellent"),
    **dict.fromkeys(("ii", "very good", "good", "sehr gut", "gut", "lichtecht", "6", "6-7"), "good"),
    **dict.fromkeys(("iii", "fair", "moderate", "mäßig", "befriedigend"), "fair"),
    **dict.fromkeys(("iv", "v", "poor", "fugitive", "gering", "schlecht", "verblasst"), "poor"),
}


@dataclass(frozen=True)
class Claims:
    """What was claimed in a text, and what is left of it.

    Attributes
    ----------
    values : dict from transparency, staining, granulation, lightfastness, status and pan to the table's words
    head : str, the claim that begins the text as a part of a name ("Transparent red oxide"); else empty
    rest : str, the text without its claims and without the head
    """

    values: dict[str, str]
    head: str
    rest: str


@dataclass(frozen=True)
class Asked:
    """A property that is asked for in a search.

    Attributes
    ----------
    phrase : str, as it was typed, folded
    key : str, one of LABEL_KEYS
    values : frozenset of str, the table's words that answer to it
    """

    phrase: str
    key: str
    values: frozenset[str]

    def said_in(self, text: str) -> bool:
        """Whether a text says it, and not its opposite.

        Parameters
        ----------
        text : str, folded
        """
        if not any(stem in text for stem in _STEMS[self.key]):
            return False
        return any(value in self.values for _, _, value in _phrases(text, self.key)[0])


def asked_for(text: str) -> tuple[list[Asked], str]:
    """The properties of paints that a search asks for, and what is left of its text.

    Parameters
    ----------
    text : str, as typed

    Examples
    --------
    >>> [(one.key, sorted(one.values)) for one in asked_for("non-staining blue")[0]]
    [('staining', ['low'])]
    """
    found = []
    for key in LABEL_KEYS:
        phrases, text = _phrases(text, key)
        for phrase, _, value in phrases:
            plain = len(phrase.split()) == 1
            values = _MEANT.get((key, value), frozenset({value})) if plain else frozenset({value})
            found.append(Asked(phrase.casefold(), key, values))
    return found, text


def _phrases(text: str, key: str) -> tuple[list[tuple[str, str, str]], str]:
    """What a text says of a property: (words, key, value) each, the more exact first, and the text without them."""
    found = []
    for pattern, own, value in _CLAIM_PATTERNS:
        if own == key:
            found += [(match.group(), own, value) for match in pattern.finditer(text)]
            text = pattern.sub(GAP, text)
    return found, text


def take_claims(text: str) -> Claims:
    """Take the claims out of a line.

    Parameters
    ----------
    text : str

    Examples
    --------
    >>> take_claims("Transparent red oxide, granulating").head
    'Transparent'
    """
    head = _head(text)
    rest = text.replace(head, "", 1) if head else text
    values: dict[str, str] = {}
    for pattern, key, value in _CLAIM_PATTERNS:
        if pattern.search(rest):
            values.setdefault(key, value)
            rest = pattern.sub(GAP, rest)
    if head:
        values = {**take_claims(head.casefold()).values, **values}
    return Claims(values, head, rest)


def _head(text: str) -> str:
    """A claim with a capital letter that begins the text and goes on as a name, such as "Opaque white"."""
    bare = text.lstrip()
    for pattern, key, _ in _CLAIM_PATTERNS:
        found = pattern.match(bare)
        if found is None or key not in LABEL_KEYS or not bare[:1].isupper():
            continue
        after = bare[found.end() :]
        follows = re.match(r" +(?=[^\W\d_])", after)
        if follows and not any(other.match(after[follows.end() :]) for other, *_ in _CLAIM_PATTERNS):
            return found[0]
    return ""


def lightfastness_of(cell: str) -> str:
    """The table's word for what a spreadsheet's column of lightfastness holds; empty where it can not be told.

    Parameters
    ----------
    cell : str, a class from I to V, a word, or 6 to 8 of the blue wool scale

    Examples
    --------
    >>> lightfastness_of("II"), lightfastness_of("***")
    ('good', '')
    """
    return _LIGHTFAST_CELLS.get(cell.strip().casefold(), "")


def claims_text(claims: Mapping[str, str]) -> str:
    """What a label claims, as it may be typed again."""
    typed = [_TYPED.get((key, claims.get(key, "")), "") for key in LABEL_KEYS[1:]]
    return ", ".join(word for word in (tr(claims.get("transparency", "")), *typed) if word)


def spoken_claims(claims: Mapping[str, str]) -> str:
    """What a line said besides name and codes, to read."""
    lightfast = claims.get("lightfastness", "")
    found = [
        tr(claims.get("transparency", "")),
        STAINING_WORDS.get(claims.get("staining", ""), ""),
        GRAIN_WORDS.get(claims.get("granulation", ""), ""),
        tr("fades")
        if lightfast == "poor"
        else tr("lightfast: {word}", word=tr(lightfast))
        if lightfast in LIGHTFASTNESS
        else "",
        {"sample": tr("a sample"), "wished": tr("only considered")}.get(claims.get("status", ""), ""),
        tr("full pan") if claims.get("pan") == "full" else "",
    ]
    return ", ".join(word for word in found if word)
