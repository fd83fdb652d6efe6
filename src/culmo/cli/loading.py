"""What the commands learn from: a readings file or a study."""

import argparse
from collections.abc import Sequence
from dataclasses import dataclass

from culmo.cli.output import open_study, say
from culmo.core.paint.estimate import Estimate, learn
from culmo.core.paint.label import NEEDS
from culmo.core.paint.pigments import never_seen, typical_readings
from culmo.core.paint.readings import Reading
from culmo.data import pigment_table
from culmo.errors import CulmoError
from culmo.study.tables import read_readings
from culmo.study.waiting import MOST_LEARNED, learned_and_waiting


@dataclass(frozen=True)
class Source:
    """Paints and readings as given.

    Attributes
    ----------
    names : list of str, all paints, retired ones too, since readings name them
    readings : list of Reading
    typical : list of (Reading, spread), general knowledge of unread paints
    mixable : list of str, the paints that may be mixed from: neither retired nor only considered
    """

    names: list[str]
    readings: list[Reading]
    typical: list[tuple[Reading, float]]
    mixable: list[str]


@dataclass(frozen=True)
class Known:
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

        with open_study(options.study) as study:
            paints = records.paints(study, retired=True)
            kept, waiting = learned_and_waiting(study, [(paint.name, paint.codes) for paint in paints])
            known = {name.casefold() for name, _ in kept}
            paints = [paint for paint in paints if paint.name.casefold() in known]
            readings = [
                reading
                for reading in records.readings(study)
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
        typical = typical_readings([(paint.name, paint.codes) for paint in paints], readings, pigment_table())
        source = Source(
            [paint.name for paint in paints],
            readings,
            typical,
            [paint.name for paint in paints if not paint.retired and paint.status != "wished"],
        )
    if not source.readings and not source.typical:
        raise CulmoError("there are no readings to learn from, and no pigment codes to start from")
    return source


def load_estimate(options: argparse.Namespace) -> Estimate:
    """Learn from what the call names."""
    return known_study(options).estimate


def known_study(options: argparse.Namespace) -> Known:
    """Learn from what the call names, with what is known of the labels."""
    source = load_source(options)
    if source.typical and not source.readings:
        say("culmo: nothing has been read yet; these are typical appearances of the pigments on the labels")
    estimate = learn(source.names, source.readings, source.typical)
    if not estimate.settled:
        say("culmo: the readings contradict each other; the estimate did not settle and is the best found")
    return Known(estimate, source.mixable)
