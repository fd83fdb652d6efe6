"""What is known of paints for the order of work: how light, how staining, which are white."""

from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING

import numpy as np

from culmo.core.chart.stages import is_white
from culmo.core.chart.washes import Traits
from culmo.core.paint.label import Label
from culmo.core.paint.recipe import mix

if TYPE_CHECKING:
    from culmo.core.paint.estimate import Estimate
    from culmo.study.records import Paint

_STAINS = {"low": 0.1, "medium": 0.5, "high": 1.0}


def traits_of(
    paints: "Iterable[Paint]", labels: Mapping[str, Label], estimate: "Estimate | None" = None
) -> Traits:
    """What paints are like for those who go from light to dark and from clean to staining.

    Parameters
    ----------
    paints : iterable of Paint
    labels : mapping from folded name to what is known of the paint; see `culmo.study.own_tests`
    estimate : Estimate that their masstones are foretold by, or None
    """
    paints = list(paints)
    staining = {name: _STAINS[label.staining] for name, label in labels.items() if label.staining in _STAINS}
    whites = frozenset(paint.name.casefold() for paint in paints if is_white(paint.codes))
    return Traits(lightness_of(estimate, [paint.name for paint in paints]), staining, whites)


def lightness_of(estimate: "Estimate | None", names: "Iterable[str]") -> dict[str, float]:
    """The L of the full wash of each paint that an estimate knows, by folded name."""
    if estimate is None:
        return {}
    from culmo.core.paint.predict import (
        predict_lab,  # the numeric core is slow to import, and needed only here
    )

    known = [name for name in names if name.casefold() in estimate.index]
    if not known:
        return {}
    lab = np.asarray(predict_lab(estimate, [mix([name]) for name in known], ["paper"] * len(known)))
    return {name.casefold(): float(L) for name, L in zip(known, lab[:, 0], strict=True)}
