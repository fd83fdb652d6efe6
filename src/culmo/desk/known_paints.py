"""What is known of each paint of the study, worked out when it is first asked for and kept until something changes."""

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from culmo.core.paint.label import Label
    from culmo.desk.session import Session

UNKNOWN_GRAIN = 0.05  # of a paint that is not in the study


class KnownPaints:
    """The labels of the paints in use: by own tests, else by the label, else by the table of pigments."""

    def __init__(self, session: "Session") -> None:
        self._session = session
        self._labels: dict[str, Label] | None = None

    def forget(self) -> None:
        """Something was recorded, or is known otherwise."""
        self._labels = None

    @property
    def labels(self) -> "dict[str, Label]":
        """What is known of each paint, by its folded name."""
        from culmo.study.own_tests import labels_in

        if self._labels is None:
            session = self._session
            self._labels = labels_in(session.file, session.paints, session.learning.estimate)
        return self._labels

    @property
    def grains(self) -> Callable[[str], float]:
        """How much a paint granulates, 0..1, by its name, as it is known now; may be asked in any thread."""
        return grains_of(self.labels)


def grains_of(labels: "Mapping[str, Label]") -> Callable[[str], float]:
    """How much a paint granulates, 0..1, by its name.

    Parameters
    ----------
    labels : from folded name to Label
    """
    grains = {name: label.grain for name, label in labels.items()}
    return lambda name: grains.get(name.casefold(), UNKNOWN_GRAIN)
