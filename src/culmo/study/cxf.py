"""Measurements in CxF3 (ISO 17972-1), the XML that instruments' programs write."""

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from culmo.core.colour.adapt import D50_WHITE, adapt_xyz, lab_from_d50, lab_from_spectrum
from culmo.core.colour.cielab import lab_from_xyz
from culmo.core.colour.spectral import DAYLIGHT, Array
from culmo.core.colour.srgb import check_lab
from culmo.errors import CulmoError
from culmo.study.cgats import MOST_SAMPLES, Sample, numbers_of
from culmo.study.doors import read_file
from culmo.words import tr

if TYPE_CHECKING:
    from xml.etree.ElementTree import Element

SIZE_LIMIT = 24 * 2**20
_MOST_BANDS = 1000
_LIGHTS = ("D50", "D65")


def read_cxf(path: Path) -> tuple[list[Sample], list[str]]:
    """The samples of a file, and what is wrong with the others.

    Of a spectrum the colour is reckoned for D65 and the 2 degree observer; else CIELAB or XYZ for D50 or D65 and that
    observer is taken.

    Raises
    ------
    CulmoError
        when the file can not be read or holds no objects
    """
    from defusedxml.common import DefusedXmlException
    from defusedxml.ElementTree import ParseError, fromstring

    try:
        root = fromstring(read_file(path, SIZE_LIMIT), forbid_dtd=True)
    except (
        ParseError,
        DefusedXmlException,
        ValueError,
        LookupError,
        RecursionError,
    ):  # an encoding that there is not
        raise CulmoError(tr('"{name}" is no CxF file, or is damaged', name=path.name)) from None
    specs = {
        spec.get("Id", ""): _Spec(spec) for spec in _within(root, "ColorSpecification") if spec.get("Id")
    }
    samples: list[Sample] = []
    bad: list[str] = []
    count = 0
    for count, entry in enumerate(_within(root, "Object"), 1):
        if count > MOST_SAMPLES:
            raise CulmoError(
                tr(
                    '"{name}" holds more than {MOST_SAMPLES} samples',
                    name=path.name,
                    MOST_SAMPLES=MOST_SAMPLES,
                )
            )
        own = entry.get("Id", "") or str(count)
        called = entry.get("Name", "").strip() or own
        try:
            samples.append(Sample(own, called, check_lab(_colour(entry, specs)), count))
        except CulmoError as error:
            bad.append(tr("object {called}: {error}", called=called[:60], error=error))
    if not count or _local(root.tag) != "CxF":
        raise CulmoError(tr('"{name}" is no CxF file, or holds no colours', name=path.name))
    return samples, bad


class _Spec:
    """How colours were reckoned: for which light and observer, over which bands."""

    def __init__(self, spec: "Element") -> None:
        self.light = _text_within(spec, "Illuminant").upper()
        self.observer = _text_within(spec, "Observer").upper()
        bands = next(_within(spec, "WavelengthRange"), None)
        self.start = (bands.get("StartWL") if bands is not None else None) or ""
        self.step = (bands.get("Increment") if bands is not None else None) or ""


def _colour(entry: "Element", specs: dict[str, _Spec]) -> Array:
    """The colour of an object: its spectrum, where it has one, tells more than what was reckoned from it."""
    reasons = []
    for kind, reckon in (("ReflectanceSpectrum", _spectral), ("ColorCIELab", _lab), ("ColorCIEXYZ", _xyz)):
        for value in _within(entry, kind):
            try:
                return reckon(value, specs.get(value.get("ColorSpecification", "")))
            except CulmoError as error:
                reasons.append(str(error))
    raise CulmoError(reasons[0] if reasons else tr("it has neither a spectrum nor CIELAB nor XYZ"))


def _spectral(value: "Element", spec: _Spec | None) -> Array:
    numbers = numbers_of((value.text or "").split()[: _MOST_BANDS + 1])
    if len(numbers) > _MOST_BANDS:
        raise CulmoError(tr("its spectrum has too many bands"))
    start, step = numbers_of(
        [
            value.get("StartWL") or (spec.start if spec is not None else "") or "nothing",
            value.get("Increment") or (spec.step if spec is not None else "") or "10",
        ]
    )
    if not (200.0 <= start <= 1000.0 and 0.5 <= step <= 50.0):
        raise CulmoError(tr("the bands of its spectrum make no sense"))
    waves = start + step * np.arange(len(numbers))
    values = np.array(numbers)
    return lab_from_spectrum(waves, values / (100.0 if values.size and values.max() > 2.0 else 1.0))


def _for_light(spec: _Spec | None) -> bool:
    """Whether colours are for D65, else for D50; for which, must be said."""
    if spec is None or spec.light not in _LIGHTS:
        raise CulmoError(tr("it does not say that its colour is for D50 or D65"))
    if spec.observer and not spec.observer.startswith("2"):
        raise CulmoError(tr("its colour is for the 10 degree observer, and it has no spectrum"))
    return spec.light == "D65"


def _lab(value: "Element", spec: _Spec | None) -> Array:
    numbers = np.array(numbers_of([_text_within(value, axis) for axis in "LAB"]))
    return numbers if _for_light(spec) else lab_from_d50(numbers)


def _xyz(value: "Element", spec: _Spec | None) -> Array:
    numbers = np.array(numbers_of([_text_within(value, axis) for axis in "XYZ"])) / 100.0
    return lab_from_xyz(numbers if _for_light(spec) else adapt_xyz(numbers, D50_WHITE), DAYLIGHT.white)


def _local(tag: object) -> str:
    """A name without its namespace: each version of the format has one of its own."""
    return str(tag).rpartition("}")[2]


def _within(root: "Element", name: str) -> Iterator["Element"]:
    return (entry for entry in root.iter() if _local(entry.tag) == name)


def _text_within(root: "Element", name: str) -> str:
    found = next(_within(root, name), None)
    return (found.text or "").strip() if found is not None else ""
