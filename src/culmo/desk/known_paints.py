"""What is known of each paint of the study, worked out when it is first asked for and kept until something changes."""

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from culmo.core.paint.grain import Grains
    from culmo.core.paint.label import Label
    from culmo.desk.session import Session

UNKNOWN_GRAIN = 0.05  # of a paint that is not in the study


class KnownPaints:
    """The labels of the paints in use: by own tests, else by the label, else by the table of pigments."""

    def __init__(self, session: "Session") -> None:
        self._session = session
        self._labels: dict[str, Label] | None = None
        self._said: dict[str, float] | None = None

    def forget(self) -> None:
        """Something was recorded, or is known otherwise."""
        self._labels, self._said = None, None

    @property
    def labels(self) -> "dict[str, Label]":
        """What is known of each paint, by its folded name."""
        from culmo.study.own_tests import labels_in

        if self._labels is None:
            session = self._session
            self._labels = labels_in(session.file, session.paints, session.learning.estimate)
        return self._labels

    @property
    def _said_grains(self) -> dict[str, float]:
        # asked for with every estimate, when nobody has asked for labels yet
        from culmo.study.own_tests import said_grains

        if self._said is None:
            self._said = said_grains(self._session.file, self._session.paints)
        return self._said

    @property
    def said(self) -> Callable[[str], float]:
        """How much a paint is said to granulate, 0..1, by its name; may be asked in any thread."""
        return grains_of(self._said_grains)

    @property
    def grains(self) -> Callable[[str], float]:
        """How much a paint granulates, 0..1, by its name, as patches showed it, else as it is said; for any thread."""
        return grains_of(self._said_grains, self._session.learning.grains)


def grains_of(said: "Mapping[str, float]", seen: "Grains | None" = None) -> Callable[[str], float]:
    """How much a paint granulates, 0..1, by its name.

    Parameters
    ----------
    said : from folded name to how much it is said to granulate
    seen : Grains, what patches taught of it; None where nothing did
    """
    grains = dict(said)
    if seen is not None:
        from culmo.core.paint.grain import as_label

        grains |= as_label(seen)
    return lambda name: grains.get(name.casefold(), UNKNOWN_GRAIN)
