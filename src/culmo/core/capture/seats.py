"""Rough places where a sheet may lie in a picture, each moved to where its paint matches the plan, the likeliest first."""

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np

from culmo.core.capture.bearing import PER_MM, SoughtPlan
from culmo.core.capture.outlines import paint_corners, paper_corners, shrunk, strangeness
from culmo.core.capture.photo import Pixels
from culmo.core.capture.placement import Placement, from_corners, plain
from culmo.core.colour.spectral import Array, Indices

_MATCH_PER_MM = 0.7
_AROUND_MM = 18.0  # how far the block may be from where the paper's corners put it
_INSET_MM = 6.0
_MUCH = 0.5  # in logs of light: more is no more painted
_ANGLES = 24
_LEAST_MATCH = 0.2
_A_GROUP = 6  # rough places of a group that are looked at closely
_AROUND = 14  # of those that are turned about, since a wheel looks alike when it is turned by a sector


@dataclass(frozen=True)
class Seat:
    """A rough place.

    Attributes
    ----------
    placement : Placement, in pixels of the searched picture
    by : str, "frame", "paper" or "whole picture"
    match : float, -1..1, how paint and plan go together there
    """

    placement: Placement
    by: str
    match: float


class Seats:
    """The rough places of one sheet in one picture."""

    def __init__(self, pixels: Pixels, plan: SoughtPlan) -> None:
        self.pixels, self.plan, self.sheet = pixels, plan, plan.sheet
        self.size = np.array([self.sheet.paper.width_mm, self.sheet.paper.height_mm])
        self.small, self.scale = shrunk(pixels)
        self.strange = np.minimum(strangeness(self.small), _MUCH).astype(np.float32)
        inset = round(_INSET_MM * PER_MM)
        block = plan.block[inset:-inset, inset:-inset].astype(np.float32)
        share = _MATCH_PER_MM / PER_MM
        self.template = cv2.resize(block, None, fx=share, fy=share, interpolation=cv2.INTER_AREA)

    def groups(self) -> Iterator[list[Seat]]:
        """Places by the paper's edges, by the painted block, and by what else there is; each group the likeliest first."""
        papers = list(paper_corners(self.pixels, float(self.size.max() / self.size.min())))
        yield self._likely(self._on_papers(papers))
        yield self._likely(self._on_blocks(papers[:2]))
        yield self._likely(self._elsewhere(), _AROUND)

    def _likely(self, seats: Iterator[Seat], most: int = _A_GROUP) -> list[Seat]:
        """The best few of those that match, of each way round."""
        ordered = sorted((seat for seat in seats if seat.match > _LEAST_MATCH), key=lambda seat: -seat.match)
        kept: list[Seat] = []
        for seat in ordered:
            if seat.match > ordered[0].match - 0.25 and all(self._far(seat, other) for other in kept):
                kept.append(seat)
            if len(kept) == most:
                break
        return kept

    def _far(self, one: Seat, other: Seat) -> bool:
        corners = np.array([[0, 0], [1, 0], [1, 1], [0, 1]]) * self.size
        away = one.placement.to_pixels(corners) - other.placement.to_pixels(corners)
        return bool(np.hypot(*away.T).max() > 2.0 * one.placement.scale)

    def _on_papers(self, papers: list[Array]) -> Iterator[Seat]:
        box = np.array([[0, 0], [1, 0], [1, 1], [0, 1]]) * self.size
        for corners in papers:
            for turned in _turns(corners):
                if _aspect_fits(turned, self.size):
                    yield self._matched(plain(self.sheet, _through(box, turned)), "paper")

    def _on_blocks(self, papers: list[Array]) -> Iterator[Seat]:
        for paper in (*papers, None):
            for corners in paint_corners(self.pixels, paper):
                for turned in _turns(corners):
                    if _aspect_fits(turned, np.array(self.sheet.frame_mm[2:])):
                        yield self._matched(from_corners(self.sheet, turned), "frame")

    def _elsewhere(self) -> Iterator[Seat]:
        height, width = self.pixels.shape[:2]
        box = np.array([[0, 0], [1, 0], [1, 1], [0, 1]]) * self.size
        whole = np.array([[0, 0], [width, 0], [width, height], [0, height]], dtype=float)
        for turned in _turns(whole):
            if _aspect_fits(turned, self.size, 1.12):
                yield self._matched(plain(self.sheet, _through(box, turned)), "whole picture")
        yield from self._by_moments()

    def _by_moments(self) -> Iterator[Seat]:
        """A block of any shape, laid on the largest painted thing by its extent, at every angle."""
        mask = cv2.morphologyEx(
            (self.strange > 0.16).astype(np.uint8), cv2.MORPH_OPEN, np.ones((4, 4), np.uint8)
        )
        joined = cv2.morphologyEx(mask, cv2.MORPH_CLOSE, np.ones((15, 15), np.uint8))
        count, numbers, stats, _ = cv2.connectedComponentsWithStats(joined)
        if count < 2:
            return
        largest = 1 + int(stats[1:, cv2.CC_STAT_AREA].argmax())
        seen = _moments(np.argwhere((numbers == largest) & (mask > 0))[:, ::-1], self.scale)
        plan = _moments(np.argwhere(self.plan.block)[::7, ::-1], PER_MM)
        if seen is None or plan is None:
            return
        for angle in np.arange(_ANGLES) * 2 * np.pi / _ANGLES:
            turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
            way = seen[1] @ turn @ np.linalg.inv(plan[1])
            sides = np.linalg.svd(way, compute_uv=False)
            if sides[0] > 1.4 * sides[1]:
                continue
            homography = np.eye(3)
            homography[:2, :2], homography[:2, 2] = way, seen[0] - way @ plan[0]
            yield self._matched(plain(self.sheet, homography), "frame")

    def _matched(self, placement: Placement, by: str) -> Seat:
        """A place moved over the paper to where paint and plan go together best."""
        margin = _AROUND_MM - _INSET_MM
        width, height = np.round((self.size + 2 * margin) * _MATCH_PER_MM).astype(int)
        to_mm = np.array([[1 / _MATCH_PER_MM, 0, -margin], [0, 1 / _MATCH_PER_MM, -margin], [0, 0, 1]])
        down = np.diag([self.scale, self.scale, 1.0])
        seen = cv2.warpPerspective(
            self.strange, down @ placement.homography @ to_mm, (int(width), int(height)),
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
        )  # fmt: skip
        match = cv2.matchTemplate(seen, self.template, cv2.TM_CCOEFF_NORMED)
        _, best, _, (x, y) = cv2.minMaxLoc(match)
        middle = _AROUND_MM * _MATCH_PER_MM
        moved = (np.array([x, y]) - middle) / _MATCH_PER_MM
        here = float(match[round(middle), round(middle)])
        if best > here + 0.03 or np.hypot(*moved) < 4.0:
            return Seat(placement.moved(float(moved[0]), float(moved[1])), by, float(best))
        return Seat(placement, by, here)


def _moments(points: Indices, scale: float) -> tuple[Array, Array] | None:
    """The middle of points and a root of their spread, in units of 1 / scale."""
    if len(points) < 50:
        return None
    places = (points + 0.5) / scale
    value, way = np.linalg.eigh(np.cov(places.T))
    return places.mean(axis=0), np.asarray(way @ np.diag(np.sqrt(np.maximum(value, 1e-6))) @ way.T)


def _turns(corners: Array) -> Iterator[Array]:
    for turn in range(4):
        yield np.roll(corners, -turn, axis=0)


def _through(places: Array, seen: Array) -> Array:
    return np.asarray(cv2.getPerspectiveTransform(places.astype(np.float32), seen.astype(np.float32)))


def _aspect_fits(corners: Array, size: Array, slack: float = 1.5) -> bool:
    """Whether four corners can be an oblong of this shape seen at a tilt."""
    sides = np.linalg.norm(corners - np.roll(corners, -1, axis=0), axis=1)
    seen = (sides[0] + sides[2]) / max(sides[1] + sides[3], 1e-6)
    want = size[0] / size[1]
    return bool(1 / slack < seen / want < slack)
