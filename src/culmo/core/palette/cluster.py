"""Colours found in a picture, and mixes that are nearly the same."""

from dataclasses import dataclass

import numpy as np

from culmo.core.colour.spectral import Array, Indices
from culmo.core.palette.nearspace import near_from_lab

_MOST_PIXELS = 40_000
_BIN = 1.0  # of the near space, about CIEDE2000
_SMOOTH = 1.2  # colours this near belong to one heap
_UPHILL = 3.5  # a heap's top lies farther than this from all that is denser
_WIDE = 9.0  # the root mean square width of a heap, beyond which it is no one colour but a passage
_LEAST_SHARE = 0.001
_SEEN_APART = 6.0
_VIVID = 30.0  # chroma that makes a spot count twice its size


@dataclass(frozen=True)
class Cluster:
    """A colour of a picture.

    Attributes
    ----------
    lab : (3,) float, the mean
    share : float, 0..1, of the picture
    """

    lab: Array
    share: float


def colours_of_picture(lab: Array, count: int, seed: int = 0) -> list[Cluster]:
    """The colours that stand for a picture, the most frequent first.

    Colours are heaps in the near space: each pixel belongs to the densest colour uphill from it (mode seeking after Koontz,
    Narendra and Fukunaga 1976), so that flat colours are neither put together nor cut in two, however many are asked for. A
    passage from one colour to another is no one colour, and is cut into pieces. Of more than are asked for those are told
    that are seen most: large ones, vivid ones, and such as lie far from those that were told before.

    Parameters
    ----------
    lab : (m, 3) float, CIELAB of its pixels
    count : int, >= 1, how many at most
    seed : int
    """
    lab = np.asarray(lab, dtype=float).reshape(-1, 3)
    if not len(lab):
        return []
    rng = np.random.default_rng(seed)
    if len(lab) > _MOST_PIXELS:
        lab = lab[rng.choice(len(lab), _MOST_PIXELS, replace=False)]
    near = near_from_lab(lab)
    owner = _heaps(near)
    pieces: list[Indices] = []
    for heap in np.unique(owner):
        members = np.flatnonzero(owner == heap)
        pieces += _cut(near, members, rng)
    found = [
        Cluster(np.median(lab[members], axis=0), len(members) / len(lab))
        for members in pieces
        if len(members) >= max(1.0, _LEAST_SHARE * len(lab))
    ]
    return sorted(_most_seen(found, count), key=lambda cluster: -cluster.share)


def _heaps(near: Array) -> Indices:
    """The heap of each pixel: that of the nearest denser colour, and so on to the top."""
    from scipy.spatial import cKDTree  # slow to import

    cells, of, counts = np.unique(
        np.floor(near / _BIN).astype(int), axis=0, return_inverse=True, return_counts=True
    )
    of = of.reshape(-1)
    middles = np.stack([np.bincount(of, near[:, axis]) / counts for axis in range(3)], axis=1)
    tree = cKDTree(middles)
    apart = tree.sparse_distance_matrix(tree, 2.5 * _SMOOTH, output_type="coo_matrix")
    weight = np.exp(-0.5 * (apart.data / _SMOOTH) ** 2) * counts[apart.col]
    density = np.bincount(apart.row, weight, minlength=len(cells))
    above: Indices = np.arange(len(cells))
    order = np.argsort(-density, kind="stable")
    rank = np.empty(len(cells), dtype=int)
    rank[order] = np.arange(len(cells))
    for cell, others in enumerate(tree.query_ball_point(middles, _UPHILL)):
        denser = [other for other in others if rank[other] < rank[cell]]
        if denser:
            away = np.linalg.norm(middles[denser] - middles[cell], axis=1)
            above[cell] = denser[int(np.argmin(away))]
    for cell in order:  # from the top down: each takes its place from one that has its own already
        above[cell] = above[above[cell]]
    return np.asarray(above[of])


def _cut(near: Array, members: Indices, rng: np.random.Generator) -> list[Indices]:
    """A heap as it is, or where it is a long passage, in pieces of about one width."""
    own = near[members]
    spread = own - own.mean(axis=0)
    width = float(np.sqrt((spread**2).sum(axis=1).mean()))
    if width <= _WIDE or len(members) < 50:
        return [members]
    # the pieces lie along the longest way of it
    _, _, axes = np.linalg.svd(spread[rng.permutation(len(spread))[:4000]], full_matrices=False)
    along = spread @ axes[0]
    pieces = int(np.ceil(width / _WIDE)) + 1
    edges = np.quantile(along, np.linspace(0.0, 1.0, pieces + 1)[1:-1])
    place = np.searchsorted(edges, along)
    return [members[place == piece] for piece in range(pieces)]


def _most_seen(found: list[Cluster], count: int) -> list[Cluster]:
    """As many as are asked for: each next is that which is seen most beside those before it."""
    if not found:
        return []
    near = near_from_lab(np.array([cluster.lab for cluster in found]))
    chroma = np.hypot(*np.array([cluster.lab[1:] for cluster in found]).T)
    weight = np.sqrt([cluster.share for cluster in found]) * (1.0 + chroma / _VIVID)
    apart = np.full(len(found), np.inf)
    chosen: list[int] = []
    while len(chosen) < min(count, len(found)):
        score = weight * np.minimum(apart / (4.0 * _SEEN_APART), 1.0)
        score[chosen] = -1.0
        best = int(np.argmax(score))
        if apart[best] < _SEEN_APART / 2:  # what is left is the same to the eye
            break
        chosen.append(best)
        apart = np.minimum(apart, np.linalg.norm(near - near[best], axis=1))
    return [found[i] for i in chosen]


def nearly_equal(lab: Array, limit: float = 3.0) -> list[list[int]]:
    """Groups of colours that are nearly the same, the largest first; each differs from all of its group by less than
    about the limit.

    Parameters
    ----------
    lab : (m, 3) float, CIELAB
    limit : float, about CIEDE2000
    """
    if len(lab) < 2:
        return []
    from scipy.cluster.hierarchy import fcluster, linkage  # slow to import

    names = fcluster(linkage(near_from_lab(np.asarray(lab, dtype=float)), "complete"), limit, "distance")
    groups = [[int(i) for i in np.flatnonzero(names == name)] for name in np.unique(names)]
    return sorted((group for group in groups if len(group) > 1), key=lambda group: (-len(group), group[0]))
