"""The kinds of sheet: each a module with a `KIND`, found here by itself."""

from importlib import import_module
from pkgutil import iter_modules

from culmo.core.chart.kind import Kind
from culmo.core.chart.sheet import Sheet
from culmo.errors import CulmoError
from culmo.words import tr

KINDS: tuple[Kind, ...] = tuple(
    sorted(
        (import_module(f"{__name__}.{found.name}").KIND for found in iter_modules(__path__)),
        key=lambda kind: kind.place,
    )
)
KIND_KEYS = tuple(kind.key for kind in KINDS)


def kind_of(sheet: Sheet) -> Kind | None:
    """The kind that a sheet was planned as; None where it was made otherwise, as a map of a box is."""
    return next((kind for kind in KINDS if kind.key == sheet.kind), None)


def tape_of(sheet: Sheet) -> float:
    """How far from its edges a sheet is taped down, in mm; 0 where its kind is not."""
    kind = kind_of(sheet)
    if kind is not None and "tape_mm" in kind.without:
        return 0.0
    return float(sheet.settings.get("tape_mm", 0.0))


def find_kind(key: str) -> Kind:
    """A kind by its key.

    Raises
    ------
    CulmoError
        when there is none
    """
    for kind in KINDS:
        if kind.key == key:
            return kind
    raise CulmoError(tr('the kind "{kind}" must be one of {what}', kind=key, what=", ".join(KIND_KEYS)))
