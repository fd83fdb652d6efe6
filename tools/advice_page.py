"""docs/advice.md: what Culmo says of ten boxes, to be read as a painter would. `python -m tools.advice_page`."""

import sys
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from culmo.core.colour.names import apart_words
from culmo.core.paint.estimate import Estimate, learn
from culmo.core.paint.grain import learn_grains
from culmo.core.paint.label import Label, label_of
from culmo.core.paint.pigments import never_seen, typical_readings
from culmo.core.paint.recipe import spoken_recipe
from culmo.core.palette.choose import choosing, loss_words
from culmo.core.palette.conditions import Conditions, kinds_of
from culmo.core.palette.finding import Wish, advise
from culmo.core.palette.ideas import find_ideas
from culmo.core.palette.lattice import Lattice, build_lattice
from culmo.core.palette.mixer import PairTable, mixer_of, pair_table
from culmo.core.palette.reach import USUAL, tabulate, value_of
from culmo.core.palette.subjects import all_round, serving
from culmo.core.steps import run_through
from culmo.data import pigment_table
from culmo.desk.known_paints import UNKNOWN_GRAIN
from culmo.desk.rooms.box.findings import Findings, work_out
from culmo.study.records import Paint
from culmo.words import listed

PAGE = Path(__file__).resolve().parents[1] / "docs" / "advice.md"
_GREY = 8.0  # chroma that a grey may keep
_EARTHS = ("Ochre PY43", "Raw sienna PY42", "Burnt sienna PR101", "Indian red PR102", "Raw umber PBr7", "Green earth PG23",
           "Bone black PBk9")  # fmt: skip
_THREE = ("Lemon PY175", "Rose PV19", "Phthalo blue PB15")
_GREENS = ("Phthalo green PG7", "Yellow green PG36", "Viridian PG18", "Green earth PG23", "Chromium green PG17",
           "Cobalt green PG50")  # fmt: skip
_EIGHT = ("Lemon PY175", "Yellow PY153", "Scarlet PR188", "Rose PV19", "Ultramarine PB29", "Phthalo blue PB15",
          "Burnt sienna PR101", "Neutral PBk6")  # fmt: skip
_EIGHTEEN = (*_EIGHT, "Orange PO62", "Crimson PR179", "Violet PV23", "Cobalt PB28", "Phthalo green PG7", "Viridian PG18",
             "Green earth PG23", "Ochre PY43", "Indian red PR102", "Umber PBr7")  # fmt: skip
_MIXTURES = ("Leaf green PY3 + PG7", "Sky PB15 + PW6", "Grey PB29 + PBk7 + PW6", "Warm violet PV19 + PB29",
             "Sepia PBr7 + PBk6",
             "Naples PY42 + PW6")  # fmt: skip
_TWENTY_FOUR = (*_EIGHTEEN, *_MIXTURES)
_TRAPS = ("Old rose PR83", "Cobalt blue PB15 + PW6", "Opera PR122", "Cadmium yellow PY35", "Cadmium red PR108",
          "Cerulean PB35",
          "Aureolin PY40", "Ultramarine PB29", "French blue PB29", "Burnt sienna PR101", "Chinese white PW4")  # fmt: skip


@dataclass(frozen=True)
class Box:
    """A box that is advised on.

    Attributes
    ----------
    title : str
    lines : sequence of str, a name and its codes each
    """

    title: str
    lines: Sequence[str]


def _all_pigments(count: int) -> list[str]:
    """So many lightfast pigments of the table, spread over its families, as single-pigment paints."""
    table = pigment_table()
    sure = [code for code, entry in table.items() if entry.sure == "good"]
    places = np.linspace(0, len(sure) - 1, count).round().astype(int)
    return [
        f"{table[sure[i]].name.split(',')[0].capitalize()} {sure[i]}" for i in dict.fromkeys(places.tolist())
    ]


def boxes() -> list[Box]:
    """The ten boxes."""
    return [
        Box("Only earths", _EARTHS),
        Box("Three primaries", _THREE),
        Box("Only greens", _GREENS),
        Box("Eight", _EIGHT),
        Box("Eighteen", _EIGHTEEN),
        Box("A bought set of twenty-four, six of them mixtures", _TWENTY_FOUR),
        Box("Thirty-four", _all_pigments(34)),
        Box("Sixty", _all_pigments(60)),
        Box("With traps: fugitive, misnamed, opaque, double", _TRAPS),
        Box("Eight, and two of which nothing is known", (*_EIGHT, "Mystery ", "Gift tube ")),
    ]


def _paints(box: Box) -> list[Paint]:
    found, seen = [], set[str]()
    for number, line in enumerate(box.lines, 1):
        words = line.split()
        first = next((i for i, word in enumerate(words) if word[0] == "P" and word[-1].isdigit()), len(words))
        name, codes = " ".join(words[:first]), " ".join(words[first:]).replace(" + ", ", ")
        if name.casefold() in seen:
            name = f"{name} {codes}"
        seen.add(name.casefold())
        found.append(Paint(number, name, codes, "owned", False, None, ""))
    return found


def _roles(found: Findings) -> list[str]:
    filled = [entry for entry in found.filled if entry.chosen is not None]
    empty = [entry.role.title for entry in found.filled if entry.chosen is None]
    lines = [
        "- Roles: "
        + "; ".join(f"{e.role.title}: {e.chosen.paint} ({e.share:.0%})" for e in filled if e.chosen)
    ]
    return [*lines, f"- Left empty: {', '.join(empty)}"] if empty else lines


def _verdict(found: Findings) -> list[str]:
    verdict = found.verdict
    lines = [f"- {verdict.character} Reaches {found.full:.0%} of what a well-filled box does."]
    lines += [f"- Does well: {'; '.join(verdict.well)}"] if verdict.well else []
    for weak in verdict.weak:
        instead = f" Instead: {', '.join(weak.codes)}." if weak.codes else ""
        lines.append(f"- Weak: **{weak.name}**: {'; '.join(weak.reasons)}.{instead}")
    if found.additions:
        lines.append(
            "- Worth adding: " + "; ".join(f"{e.code} {e.words} (+{e.gain:.1%})" for e in found.additions[:3])
        )
    if found.repeats:
        pairs = [f"{e.pair.first} and {e.pair.second} ({e.reason})" for e in found.repeats[:4]]
        lines.append("- Repeats: " + "; ".join(pairs))
    best = {name: own[0] for name, own in found.opposites.items() if own}
    grey = [f"{name} by {listed(one.partners)}" for name, one in best.items() if one.chroma <= _GREY]
    never = [name for name in found.names if name not in best or best[name].chroma > _GREY]
    lines += [f"- Greyed: {'; '.join(grey[:6])}"] if grey else []
    return [*lines, f"- Not greyed by anything here: {', '.join(never)}"] if never else lines


def _mixes(estimate: Estimate, names: Sequence[str], labels: Sequence[Label]) -> list[str]:
    mixer = mixer_of(estimate).only(names)
    lattice, table = build_lattice(mixer), pair_table(mixer)
    lines = []
    by_name = {name.casefold(): label for name, label in zip(names, labels, strict=True)}
    grains = learn_grains(
        estimate, [], lambda name: by_name[name].grain if name in by_name else UNKNOWN_GRAIN
    )
    ideas = find_ideas(estimate, mixer, table, lattice, grains)
    for kind, some in ideas.found.items():
        if some:
            told = "; ".join(f"{spoken_recipe(idea.recipe)}" for idea in some[:3])
            lines.append(f"- {kind.capitalize()} ({len(some)}): {told}")
    for what, lab in (
        ("moss green", (48.0, -16.0, 30.0)),
        ("warm grey", (55.0, 2.0, 6.0)),
        ("clean violet", (40.0, 38.0, -36.0)),
    ):
        best = advise(estimate, lattice, np.array(lab), Wish(), by_name)[0]
        why, away = "; ".join(best.reasons), apart_words(best.match.away)
        lines.append(f"- {what.capitalize()}: {spoken_recipe(best.match.recipe)}, {away} ({why})")
    served = run_through(serving(lattice))
    lines.append(
        f"- For subjects {all_round(served):.0%} all round: "
        + "; ".join(f"{s.subject.title.lower()} {s.words}" for s in served)
    )
    return [*lines, *_fewer(lattice, names, labels, table)]


def _fewer(lattice: Lattice, names: Sequence[str], labels: Sequence[Label], pairs: PairTable) -> list[str]:
    reach = tabulate(lattice, USUAL)
    value, kinds = value_of(reach, USUAL), kinds_of(pairs, labels)
    lines = []
    for size in (3, 5):
        if size < len(names):
            choice = run_through(choosing(value, kinds, Conditions(), size, seconds=20.0))
            words = listed([lattice.names[i] for i in choice.best])
            lost = loss_words(reach, reach.reached(reach.reach(choice.best)))
            lines.append(f"- Best {size}: {words}, {choice.worth[0]:.0%}; {lost}")
    return lines


def advice(box: Box) -> list[str]:
    """What is said of a box, as lines of the page."""
    table = pigment_table()
    paints = _paints(box)
    coded = [(paint.name, paint.codes) for paint in paints]
    unknown = never_seen(coded, [], table)
    known = [paint for paint in paints if paint.name.casefold() not in unknown]
    coded = [(paint.name, paint.codes) for paint in known]
    names = [paint.name for paint in known]
    estimate = learn(names, [], typical_readings(coded, [], table))
    labels = {paint.name.casefold(): label_of(paint.codes, table) for paint in known}
    found = run_through(work_out(estimate, known, [], names, labels))
    lines = [f"## {box.title}", "", ", ".join(f"{p.name} ({p.codes or 'no code'})" for p in paints) + "."]
    if unknown:
        lines.append(f"Nothing is known of {listed(sorted(unknown))}; they take no part.")
    own = [labels[name.casefold()] for name in names]
    return [*lines, "", *_roles(found), *_verdict(found), *_mixes(estimate, names, own), ""]


def main() -> int:
    """Write the page."""
    head = [
        "# What is advised for ten boxes",
        "",
        "Written by `python -m tools.advice_page` from typical appearances of the pigments: nothing was read.",
        "",
    ]
    PAGE.write_text("\n".join([*head, *(line for box in boxes() for line in advice(box))]), encoding="utf-8")
    print(PAGE)
    return 0


if __name__ == "__main__":
    sys.exit(main())
