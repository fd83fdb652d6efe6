"""What the commands learn from: a readings file or a study."""

import argparse
import time
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from culmo.cli.output import open_study, run_told, say
from culmo.cli.streams import Level
from culmo.core.paint.estimate import Estimate, learning
from culmo.core.paint.label import NEEDS
from culmo.core.paint.pigments import never_seen, told_by_pigments
from culmo.core.paint.problem import prepare
from culmo.core.paint.readings import Reading
from culmo.core.paint.typical import Belief
from culmo.data import pigment_table, typical_curves
from culmo.errors import CulmoError
from culmo.study.tables import read_readings
from culmo.study.waiting import MOST_LEARNED, learned_and_waiting

if TYPE_CHECKING:
    from culmo.study import records
    from culmo.study.file import Study


@dataclass(frozen=True)
class Source:
    """Paints and readings as given.

    Attributes
    ----------
    names : list of str, all paints, retired ones too, since readings name them
    readings : list of Reading
    typical : list of (Reading, spread), general knowledge of unread paints
    mixable : list of str, the paints that may be mixed from: neither retired nor only considered
    beliefs : dict from folded name to Belief, what is believed of paints whose card was not read, by their codes
    """

    names: list[str]
    readings: list[Reading]
    typical: list[tuple[Reading, float]]
    mixable: list[str]
    beliefs: dict[str, Belief] = field(default_factory=dict)


@dataclass(frozen=True)
class LearnedSource:
    """What was learned.

    Attributes
    ----------
    estimate : Estimate
    mixable : as in Source
    """

    estimate: Estimate
    mixable: list[str]


def paints_in(readings: Sequence[Reading]) -> list[str]:
    """The paints that readings name, in the order of their first naming."""
    seen: dict[str, str] = {}
    for reading in readings:
        for name in reading.recipe.names:
            seen.setdefault(name.casefold(), name)
    return list(seen.values())


def load_source(options: argparse.Namespace) -> Source:
    """Paints, readings and general knowledge from what the call names."""
    box = getattr(options, "box", "")
    in_box: set[str] | None = None
    if box and options.readings is not None:
        raise CulmoError("a file of readings knows no boxes; --box goes with --study")
    if options.readings is not None:
        rows, bad = read_readings(options.readings)
        for line in bad:
            say(f"culmo: {options.readings.name}, {line}; left out")
        readings = [row.reading for row in rows]
        names = paints_in(readings)
        if len(names) > MOST_LEARNED:
            raise CulmoError(
                f'"{options.readings}" names {len(names)} paints; {MOST_LEARNED} are the most that are learned together'
            )
        source = Source(names, readings, [], names)
    else:
        from culmo.study import records
        from culmo.study.pictured import readings_of
        from culmo.study.seen import anchored, with_anchors
        from culmo.study.told import told, with_told

        with open_study(options.study) as study:
            paints = records.paints(study, retired=True)
            if box:
                in_box = {paint.name for paint in paints_in_box(study, box)}
            kept, waiting = learned_and_waiting(study, [(paint.name, paint.codes) for paint in paints])
            known = {name.casefold() for name, _ in kept}
            paints = [paint for paint in paints if paint.name.casefold() in known]
            seen = with_told(records.reading_rows(study), told(study))
            readings = [
                reading
                for reading in anchored(readings_of(seen), with_anchors(seen))
                if all(name.casefold() in known for name in reading.recipe.names)
            ]
            if waiting:
                say(
                    f"culmo: {len(waiting)} paints are left out, since {len(kept)} are the most that are learned "
                    "together; those that are read, in a box or on a sheet come first"
                )
        unknown = never_seen([(paint.name, paint.codes) for paint in paints], readings, pigment_table())
        for paint in paints:
            if paint.name.casefold() in unknown and not paint.retired:
                say(f'culmo: nothing is known of "{paint.name}", and it takes no part: {NEEDS}')
        paints = [paint for paint in paints if paint.name.casefold() not in unknown]
        codes = [(paint.name, paint.codes) for paint in paints]
        typical, beliefs = told_by_pigments(codes, readings, pigment_table(), typical_curves())
        source = Source(
            [paint.name for paint in paints],
            readings,
            typical,
            [
                paint.name
                for paint in paints
                if not paint.retired and paint.status != "wished" and (in_box is None or paint.name in in_box)
            ],
            beliefs,
        )
    if box and not source.mixable:
        raise CulmoError(f'the box "{box}" holds no paint that can be mixed from')
    if not source.readings and not source.beliefs:
        raise CulmoError("there are no readings to learn from, and no pigment codes to start from")
    return source


def learn_told(source: Source) -> Estimate:
    """As `learn`, with its progress told at a terminal."""
    begun = time.monotonic()
    problem = prepare(source.names, source.readings, source.typical, source.beliefs)
    estimate = run_told(learning(problem), "learning from the readings")
    took = time.monotonic() - begun
    say(
        f"culmo: learned {len(source.names)} paints from {len(source.readings)} readings, "
        f"{len(source.typical)} typical appearances and {len(source.beliefs)} typical spectra, "
        f"{took:.1f} s",
        Level.MORE,
    )
    return estimate


def paints_in_box(study: "Study", name: str) -> "list[records.Paint]":
    """The paints of a box, in the order of its wells.

    Raises
    ------
    CulmoError
        naming the boxes that there are
    """
    from culmo.study import records
    from culmo.study.box_records import boxes

    found = boxes(study)
    box = next((box for box in found if box.name.casefold() == name.strip().casefold()), None)
    if box is None:
        there = ", ".join(f'"{box.name}"' for box in found) or "none"
        raise CulmoError(f'there is no box "{name}"; there are: {there}')
    by_id = {paint.id: paint for paint in records.paints(study)}
    return [by_id[box.paints[place]] for place in sorted(box.paints) if box.paints[place] in by_id]


def load_estimate(options: argparse.Namespace) -> Estimate:
    """Learn from what the call names."""
    return known_study(options).estimate


def known_study(options: argparse.Namespace) -> LearnedSource:
    """Learn from what the call names, with what is known of the labels."""
    source = load_source(options)
    if source.beliefs and not source.readings:
        say("culmo: nothing has been read yet; these are typical appearances of the pigments on the labels")
    estimate = learn_told(source)
    if not estimate.settled:
        say("culmo: the readings contradict each other; the estimate did not settle and is the best found")
    return LearnedSource(estimate, source.mixable)
