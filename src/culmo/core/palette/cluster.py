"""Colours found in a picture, and mixes that are nearly the same."""

from dataclasses import dataclass

import numpy as np

from culmo.core.colour.spectral import Array, Indices
from culmo.core.palette.nearspace import near_from_lab

_MOST_PIXELS = 20_000
_ROUNDS = 40
_LEAST_SHARE = 0.004
_TOO_ALIKE = 3.0


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
    """The colours that stand for a picture, by k-means in the near space, the most frequent first.

    The seeds are spread (Arthur and Vassilvitskii 2007), so that a small spot of a rare colour is found too. Colours of
    fewer than four in a thousand pixels are left out; those that are nearly the same are put together.

    Parameters
    ----------
    lab : (m, 3) float, CIELAB of its pixels
    count : int, >= 1, how many to look for
    seed : int
    """
    lab = np.asarray(lab, dtype=float).reshape(-1, 3)
    if not len(lab):
        return []
    rng = np.random.default_rng(seed)
    if len(lab) > _MOST_PIXELS:
        lab = lab[rng.choice(len(lab), _MOST_PIXELS, replace=False)]
    near = near_from_lab(lab)
    centres = _seeds(near, count, rng)
    owner: Indices = np.zeros(len(near), dtype=np.intp)
    for _ in range(_ROUNDS):
        owner_now = _nearest(near, centres)
        if (owner_now == owner).all() and _:
            break
        owner = owner_now
        for i in range(len(centres)):
            if (owner == i).any():
                centres[i] = near[owner == i].mean(axis=0)
    found = [
        Cluster(lab[owner == i].mean(axis=0), float((owner == i).mean()))
        for i in range(len(centres))
        if (owner == i).any()
    ]
    found.sort(key=lambda cluster: -cluster.share)
    kept: list[Cluster] = []
    for cluster in found:
        own = near_from_lab(cluster.lab)
        like = next(
            (
                i
                for i, other in enumerate(kept)
                if np.linalg.norm(near_from_lab(other.lab) - own) < _TOO_ALIKE
            ),
            None,
        )
        if like is None:
            kept.append(cluster)
        else:  # two halves of one colour are one
            share = kept[like].share + cluster.share
            lab = (kept[like].lab * kept[like].share + cluster.lab * cluster.share) / share
            kept[like] = Cluster(lab, share)
    kept.sort(key=lambda cluster: -cluster.share)
    return [cluster for cluster in kept if cluster.share >= _LEAST_SHARE]


def _seeds(near: Array, count: int, rng: np.random.Generator) -> Array:
    centres = [near[int(rng.integers(len(near)))]]
    square = ((near - centres[0]) ** 2).sum(axis=1)
    while len(centres) < count and square.max() > 1e-9:
        centres.append(near[int(rng.choice(len(near), p=square / square.sum()))])
        square = np.minimum(square, ((near - centres[-1]) ** 2).sum(axis=1))
    return np.array(centres)


def _nearest(near: Array, centres: Array) -> Indices:
    apart = (near**2).sum(axis=1)[:, None] - 2.0 * near @ centres.T + (centres**2).sum(axis=1)
    return np.asarray(apart.argmin(axis=1))


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
