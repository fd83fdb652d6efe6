"""What a study teaches, and how it is kept between two days.

Learning from many years' readings takes seconds. What came of it is kept in a file that bears the fingerprint of all that
it was learned from; where a study's fingerprint is there, nothing is learned anew. These files are not the painter's
record: they may be deleted at any time, and one that is damaged in any way counts as not there.
"""

import hashlib
import json
import os
from collections.abc import Callable, Generator, Mapping, Sequence
from contextlib import suppress
from dataclasses import astuple, dataclass, field, replace
from functools import cache
from importlib.resources import files
from importlib.resources.abc import Traversable
from pathlib import Path

import numpy as np

from culmo.core.capture.settle import KnownBefore
from culmo.core.paint.character import Triple
from culmo.core.paint.estimate import Estimate, learning
from culmo.core.paint.grain import Grains, SeenTexture, learn_grains
from culmo.core.paint.hand import HAND_FIGURES, Hand
from culmo.core.paint.parameters import Layout
from culmo.core.paint.pigments import never_seen, read_places, told_by_pigments
from culmo.core.paint.problem import prepare
from culmo.core.paint.readings import Reading, taught
from culmo.data import pigment_table, typical_curves
from culmo.errors import CulmoError
from culmo.study.file import Row
from culmo.study.looks import in_mean
from culmo.study.pictured import readings_of, told_anew
from culmo.study.seen import anchored, shot_from, with_anchors
from culmo.study.whole_file import whole_file

MOST_KEPT = 8  # as many as the window remembers studies
SUFFIX = ".learned"
_DIGEST = hashlib.sha256().digest_size
_MOST_BYTES = 400_000_000  # some three hundred paints
_TAUGHT_BY = ("id", "recipe", "L", "a", "b", "ground", "paper", "trust", "treatment", "mixing")


@dataclass(frozen=True)
class Learned:
    """What the learning gives.

    Attributes
    ----------
    fingerprint : str, of all that it was learned from; empty where nobody asked for it yet
    estimate : Estimate
    unread : set of folded names of paints of which nothing pure was read
    unknown : set of folded names of those of which nothing at all is known; they are not in the estimate
    read_places : from folded name to the places of its card that were read
    read_mixes : set of the sets of folded names that were read together
    weights : from the id of a reading that teaches to its robust weight; a small one is that of a dirty cell
    kept : bool, whether it was found as it was kept, and need not be kept again
    told_anew : from the id of a reading from a picture to its colour as it stands, and as what is known now makes it
    grains : Grains, how its paints settle, where patches teach it; it is not kept
    """

    fingerprint: str
    estimate: Estimate
    unread: set[str]
    unknown: set[str]
    read_places: dict[str, set[tuple[float, str]]]
    read_mixes: set[frozenset[str]]
    weights: dict[int, float]
    kept: bool = False
    told_anew: Mapping[int, tuple[Triple, Triple]] = field(default_factory=dict)
    grains: Grains | None = None


def learning_from(
    codes: Sequence[tuple[str, str]],
    rows: Sequence[Row],
    earlier: Estimate | None,
    folder: Path | None,
    textures: Sequence[SeenTexture] = (),
    grain: Callable[[str], float] | None = None,
) -> Generator[float, None, Learned]:
    """All of the learning: the readings, what is typical of unread paints, then the estimate; or what is kept of it.

    Parameters
    ----------
    codes : sequence of (str, str), the paints' names and Colour Index codes; readings of others teach nothing
    rows : sequence of Row, as `reading_rows` and `with_told` give them
    earlier : Estimate to start from
    folder : Path, where it may be kept from an earlier day
    textures : sequence of SeenTexture, by which it is learned how paints settle
    grain : function from a paint's folded name to how much it is said to granulate, 0..1, where there are textures
    """
    yield 0.0
    mark = ""  # asked for at the first learning of a day, and when it is kept
    if earlier is None:
        mark = fingerprint(codes, rows)
        kept = None if folder is None else find_kept(folder, mark)
        if kept is not None:
            settled = grains_in(kept.estimate, textures, grain)
            return replace(kept, told_anew=told_anew(kept.estimate, rows), grains=settled)
    readings, codes, unknown = _of_known_paints(codes, rows)
    typical, beliefs = told_by_pigments(codes, readings, pigment_table(), typical_curves())
    places = read_places(readings)
    names = {name.casefold() for name, _ in codes}
    unread = names - set(places)
    together = (reading.recipe.names for reading in readings)
    mixes = {frozenset(name.casefold() for name in own) for own in together if len(own) > 1}
    teaching = taught(readings)
    problem = prepare([name for name, _ in codes], teaching, typical, beliefs)
    estimate = yield from learning(problem, earlier)
    # general knowledge comes after what was read
    ids = [int(reading.extra) for reading in teaching]
    weights: dict[int, float] = {}
    for row_id, weight in zip(ids, estimate.weights.tolist(), strict=False):
        # of several looks at a cell by the one that fits least
        weights[row_id] = min(weight, weights.get(row_id, weight))
    return Learned(
        mark, estimate, unread, unknown, places, mixes, weights, told_anew=told_anew(estimate, rows),
        grains=grains_in(estimate, textures, grain),
    )  # fmt: skip


def grains_in(
    estimate: Estimate, textures: Sequence[SeenTexture], grain: Callable[[str], float] | None
) -> Grains | None:
    """How paints settle, by what was seen of those that are known; None where nothing was.

    Parameters
    ----------
    estimate : Estimate
    textures, grain : as in `learning_from`
    """
    known = [one for one in textures if all(name.casefold() in estimate.index for name in one.recipe.names)]
    return None if grain is None or not known else learn_grains(estimate, known, grain)


def _of_known_paints(
    codes: Sequence[tuple[str, str]], rows: Sequence[Row]
) -> tuple[list[Reading], list[tuple[str, str]], set[str]]:
    """The readings and the paints of which something is known, and the folded names of the others."""
    readings = anchored(readings_of(rows), with_anchors(rows))
    unknown = never_seen(codes, readings, pigment_table())
    kept = [(name, own) for name, own in codes if name.casefold() not in unknown]
    names = {name.casefold() for name, _ in kept}
    readings = [r for r in readings if all(name.casefold() in names for name in r.recipe.names)]
    return readings, kept, unknown


def knowledge_of(
    codes: Sequence[tuple[str, str]], rows: Sequence[Row], earlier: Estimate | None
) -> KnownBefore:
    """What is known beside a picture that is read now.

    Parameters
    ----------
    codes, rows : as in `learning_from`
    earlier : Estimate, what was learned of them
    """
    readings, kept, _ = _of_known_paints(codes, rows)
    typical, beliefs = told_by_pigments(kept, readings, pigment_table(), typical_curves())
    names = tuple(name for name, _ in kept)
    return KnownBefore(names, tuple(taught(readings)), tuple(typical), beliefs, earlier)


def fingerprint(codes: Sequence[tuple[str, str]], rows: Sequence[Row]) -> str:
    """Of the paints, the readings and the program that learns from them; another one where any of them is another.

    Parameters
    ----------
    codes, rows : as in `learning_from`
    """
    found = hashlib.sha256(_program())
    found.update(repr([tuple(pair) for pair in codes]).encode())
    for row in rows:
        found.update(
            repr(
                (
                    *(row[column] for column in _TAUGHT_BY),
                    row.get("puddle"),
                    row.get("depth"),
                    row.get("uncertainty"),
                    row.get("seen") or "",
                    in_mean(row),
                )
            ).encode()
        )
    # how a database writes its JSON is not how it is written here
    found.update(repr(sorted(with_anchors(rows).items())).encode())
    return found.hexdigest()


@cache
def _program() -> bytes:
    """Of everything that learning rests on besides the study, so that a new version learns anew without being told to."""
    found = hashlib.sha256(np.__version__.encode())
    core = files("culmo.core")
    tables = [entry for entry in files("culmo.data").iterdir() if entry.name.endswith(".csv")]
    sources = [
        entry for part in ("paint", "colour") for entry in core.joinpath(part).iterdir() if entry.is_file()
    ]
    for entry in sorted([*tables, *sources], key=_name_of):
        found.update(entry.name.encode() + entry.read_bytes())
    return found.digest()


def _name_of(entry: Traversable) -> str:
    return entry.name


def keep(folder: Path, learned: Learned) -> None:
    """Keep what was learned, and drop what was not asked for the longest time.

    Raises
    ------
    CulmoError
        when it can not be written; nothing is lost but some seconds of another day
    """
    estimate = learned.estimate
    numbers = [
        np.asarray(part, dtype="<f8") for part in (estimate.theta, estimate.covariance, estimate.weights)
    ]
    head = {
        "fingerprint": learned.fingerprint,
        "names": estimate.names,
        "grounds": estimate.layout.grounds,
        "shots": [astuple(shot) for shot in estimate.shots],
        "papers": estimate.layout.papers,
        "hand": astuple(estimate.hand),
        "readings": estimate.readings,
        "settled": estimate.settled,
        "weights": len(estimate.weights),
        "taught": list(learned.weights.items()),
        "unread": sorted(learned.unread),
        "unknown": sorted(learned.unknown),
        "places": {name: sorted(places) for name, places in learned.read_places.items()},
        "mixes": sorted(sorted(mix) for mix in learned.read_mixes),
    }
    body = b"".join([json.dumps(head).encode(), b"\n", *(part.tobytes() for part in numbers)])
    try:
        folder.mkdir(parents=True, exist_ok=True)
        # the names of one's paints are nobody else's business
        with whole_file(folder / f"{learned.fingerprint}{SUFFIX}", mode=0o600) as beside:
            beside.write_bytes(hashlib.sha256(body).digest() + body)
        there = sorted(folder.glob(f"*{SUFFIX}"), key=lambda path: path.stat().st_mtime_ns, reverse=True)
        for path in there[MOST_KEPT:]:
            path.unlink(missing_ok=True)
    except OSError as error:
        raise CulmoError(str(error)) from None


def find_kept(folder: Path, mark: str) -> Learned | None:
    """What was learned on an earlier day from the same; None where there is nothing that can be trusted.

    Parameters
    ----------
    folder : Path
    mark : str, the fingerprint
    """
    path = folder / f"{mark}{SUFFIX}"
    try:
        if path.stat().st_size > _MOST_BYTES:
            return None
        whole = path.read_bytes()
        digest, body = whole[:_DIGEST], memoryview(whole)[_DIGEST:]
        if digest != hashlib.sha256(body).digest():
            return None
        end = whole.index(b"\n", _DIGEST) + 1
        head = json.loads(whole[_DIGEST:end])
        names, grounds = tuple(head["names"]), tuple((kind, paper) for kind, paper in head["grounds"])
        shots = tuple(shot_from(one) for one in head["shots"])
        layout = Layout(len(names), grounds, tuple(head["papers"]), len(shots))
        p = layout.size
        numbers = np.frombuffer(whole, dtype="<f8", offset=end).astype(
            float
        )  # a copy, where the processor wants it
        if head["fingerprint"] != mark or len(numbers) != p + p * p + head["weights"]:
            return None
        estimate = Estimate(
            names=names,
            layout=layout,
            theta=numbers[:p],
            covariance=numbers[p : p + p * p].reshape(p, p),
            hand=Hand(**{name: float(value) for name, value in zip(HAND_FIGURES, head["hand"], strict=True)}),
            readings=int(head["readings"]),
            settled=bool(head["settled"]),
            weights=numbers[p + p * p :],
            shots=shots,
        )
        places = {name: {(wash, ground) for wash, ground in own} for name, own in head["places"].items()}
        mixes = {frozenset(mix) for mix in head["mixes"]}
        weights = {int(row_id): float(weight) for row_id, weight in head["taught"]}
        unread, unknown = set(head["unread"]), set(head["unknown"])
        found = Learned(mark, estimate, unread, unknown, places, mixes, weights, kept=True)
    except (OSError, ValueError, TypeError, KeyError, AttributeError, OverflowError, RecursionError):
        return None
    with suppress(OSError):
        os.utime(path)  # it was asked for: it is not the first to be dropped
    return found
