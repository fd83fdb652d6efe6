"""Measurements in CxF3: files as ISO 17972-1 has them, their colours reckoned by another library."""

import warnings
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from culmo.core.paint.recipe import parse_recipe
from culmo.errors import CulmoError
from culmo.study.cxf import read_cxf
from culmo.study.incoming import bring_in
from culmo.study.measured import read_card
from culmo.study.records import readings
from support.builders import make_study

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour

NAMESPACE = "http://colorexchangeformat.com/CxF3-core"
WAVES = np.arange(400, 701, 10)


def spectrum(seed):
    """A smooth reflectance, as paint has it."""
    rng = np.random.default_rng(seed)
    knots = rng.uniform(0.05, 0.9, 6)
    return np.interp(WAVES, np.linspace(400, 700, 6), knots)


def lab_by_colour_science(values, illuminant="D65"):
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        shape = colour.SpectralShape(380, 730, 10)
        observer = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"].copy().align(shape)
        light = colour.SDS_ILLUMINANTS[illuminant].copy().align(shape)
        ends = np.interp(shape.range(), WAVES, values)
        sample = colour.SpectralDistribution(dict(zip(shape.range(), ends, strict=True)))
        xyz = colour.sd_to_XYZ(sample, observer, light, method="Integration") / 100
        white = colour.sd_to_XYZ(colour.sd_ones(shape), observer, light, method="Integration") / 100
        return colour.XYZ_to_Lab(xyz, colour.XYZ_to_xy(white))


def cxf(objects, specs="", root="CxF"):
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<cc:{root} xmlns:cc="{NAMESPACE}">
  <cc:FileInformation><cc:Creator>a test</cc:Creator></cc:FileInformation>
  <cc:Resources>
    <cc:ObjectCollection>{objects}</cc:ObjectCollection>
    <cc:ColorSpecificationCollection>
      <cc:ColorSpecification Id="spectral"><cc:MeasurementSpec>
        <cc:MeasurementType>Spectrum_Reflectance</cc:MeasurementType>
        <cc:WavelengthRange StartWL="400" Increment="10"/></cc:MeasurementSpec></cc:ColorSpecification>
      <cc:ColorSpecification Id="d50"><cc:TristimulusSpec><cc:Illuminant>D50</cc:Illuminant>
        <cc:Observer>2_Degree</cc:Observer></cc:TristimulusSpec></cc:ColorSpecification>
      <cc:ColorSpecification Id="d65"><cc:TristimulusSpec><cc:Illuminant>D65</cc:Illuminant>
        <cc:Observer>2_Degree</cc:Observer></cc:TristimulusSpec></cc:ColorSpecification>
      <cc:ColorSpecification Id="ten"><cc:TristimulusSpec><cc:Illuminant>D65</cc:Illuminant>
        <cc:Observer>10_Degree</cc:Observer></cc:TristimulusSpec></cc:ColorSpecification>{specs}
    </cc:ColorSpecificationCollection>
  </cc:Resources>
</cc:{root}>
"""


def thing(name, values):
    held = f"<cc:ColorValues>{values}</cc:ColorValues>"
    return f'<cc:Object ObjectType="Sample" Name="{name}" Id="{name}-id">{held}</cc:Object>'


def spectral(values, start=' StartWL="400"'):
    numbers = " ".join(f"{v:.5f}" for v in values)
    return f'<cc:ReflectanceSpectrum ColorSpecification="spectral"{start}>{numbers}</cc:ReflectanceSpectrum>'


def lab(values, spec):
    parts = "".join(f"<cc:{axis}>{v:.4f}</cc:{axis}>" for axis, v in zip("LAB", values, strict=True))
    return f'<cc:ColorCIELab ColorSpecification="{spec}">{parts}</cc:ColorCIELab>'


@pytest.fixture
def saved(tmp_path):
    def save(text):
        path = tmp_path / "m.cxf"
        path.write_text(text, encoding="utf-8")
        return path

    return save


@pytest.mark.parametrize("start", [' StartWL="400"', ""])
@pytest.mark.parametrize("seed", range(4))
def test_a_spectrum_is_the_colour_that_another_library_reckons(saved, seed, start):
    values = spectrum(seed)
    (sample,), bad = read_cxf(saved(cxf(thing("Rose", spectral(values, start)))))
    assert bad == []
    assert sample.name == "Rose"
    assert sample.lab == pytest.approx(lab_by_colour_science(values), abs=0.25)


def test_cielab_for_d50_and_d65_is_brought_to_d65(saved):
    """Adapted by Bradford's transform, as the library has it; what is for D65 already stays."""
    wanted = np.array([52.0, 61.0, 18.0])
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        whites = [
            colour.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"][name] for name in ("D65", "D50")
        ]
        xyz = colour.Lab_to_XYZ(wanted, whites[0])
        moved = colour.chromatic_adaptation(
            xyz, colour.xy_to_XYZ(whites[0]), colour.xy_to_XYZ(whites[1]), transform="Bradford"
        )
        d50 = colour.XYZ_to_Lab(moved, whites[1])
    samples, bad = read_cxf(saved(cxf(thing("a", lab(d50, "d50")) + thing("b", lab(wanted, "d65")))))
    assert bad == []
    assert samples[0].lab == pytest.approx(wanted, abs=0.1)
    assert samples[1].lab == pytest.approx(wanted, abs=1e-6)


def test_xyz_is_taken_too_and_a_spectrum_goes_before_it(saved):
    grey = '<cc:ColorCIEXYZ ColorSpecification="d65"><cc:X>17.51</cc:X><cc:Y>18.42</cc:Y><cc:Z>20.06</cc:Z></cc:ColorCIEXYZ>'
    (one, two), _ = read_cxf(saved(cxf(thing("a", grey) + thing("b", grey + spectral(np.full(31, 0.5))))))
    assert one.lab == pytest.approx([50.0, 0.0, 0.0], abs=0.1)
    assert two.lab[0] == pytest.approx(76.07, abs=0.1)  # L* of half the light


def test_what_can_not_be_known_is_said_and_the_rest_is_taken(saved):
    objects = (
        thing("ten", lab((50, 0, 0), "ten")) + thing("unsaid", lab((50, 0, 0), "nowhere")) + thing("empty", "")
        + thing("short", spectral([0.5] * 5)) + thing("wild", lab((50, 900, 0), "d65"))
        + thing("words", '<cc:ReflectanceSpectrum StartWL="400">red red</cc:ReflectanceSpectrum>')
        + thing("ten with its spectrum", lab((50, 0, 0), "ten") + spectral(spectrum(1)))
        + thing("good", lab((50, 0, 0), "d65"))
    )  # fmt: skip
    samples, bad = read_cxf(saved(cxf(objects)))
    assert [sample.name for sample in samples] == ["ten with its spectrum", "good"]
    assert len(bad) == 6
    assert "10 degree" in bad[0]
    assert "D50 or D65" in bad[1]


def test_objects_that_are_named_by_recipes_are_readings_and_others_are_wanted(saved, tmp_path):
    with make_study(tmp_path / "s.culmo", cards=False) as study:
        names = [row["name"] for row in study.rows("paints")]
        text = cxf(
            thing(names[0], lab((40, 60, 10), "d65"))
            + thing(f"{names[0]} + {names[1]} @ tint", lab((70, 20, 30), "d65"))
        )
        said = []
        assert bring_in(study, saved(text), said.append) == "2 readings"
        assert [str(reading.recipe) for reading in readings(study)] == [
            str(parse_recipe(text)) for text in (names[0], f"{names[0]} + {names[1]} @ tint")
        ]
        assert (
            bring_in(study, saved(cxf(thing("moss", lab((45, -10, 20), "d65")))), said.append)
            == "1 wanted colour"
        )


def test_a_reference_card_may_be_such_a_file(saved):
    card = read_card(saved(cxf(thing("A1", lab((50, 0, 0), "d65")) + thing("A2", lab((20, 5, 5), "d65")))))
    assert [name for name, _ in card] == ["A1", "A2"]
    with pytest.raises(CulmoError, match="ten"):
        read_card(saved(cxf(thing("ten", lab((50, 0, 0), "ten")))))


@pytest.mark.parametrize(
    "text",
    [
        "", "no XML", "<a/>", cxf("", root="Other"), cxf(""), cxf(thing("a", ""), root="Other"),
        '<!DOCTYPE x [<!ENTITY e "e">]>' + cxf("").split("?>")[1],
        "<cc:CxF>" + "<a>" * 50_000, cxf("").replace("UTF-8", "TTF-8"),
    ],
)  # fmt: skip
def test_what_is_no_such_file_is_refused_in_a_line(saved, text):
    with pytest.raises(CulmoError) as refused:
        read_cxf(saved(text))
    assert "\n" not in str(refused.value)


@settings(max_examples=60)
@given(st.integers(0, 10**6), st.integers(1, 30))
def test_a_damaged_file_never_does_more_than_complain(tmp_path_factory, seed, count):
    path = Path(tmp_path_factory.mktemp("cxf")) / "m.cxf"
    data = bytearray(cxf(thing("a", spectral(spectrum(1))) + thing("b", lab((50, 0, 0), "d50"))).encode())
    rng = np.random.default_rng(seed)
    for place in rng.integers(0, len(data), count):
        data[place] = rng.integers(0, 256)
    path.write_bytes(bytes(data[: int(rng.integers(1, len(data)))] if seed % 4 == 0 else data))
    try:
        samples, _ = read_cxf(path)
    except CulmoError:
        return
    assert all(np.isfinite(sample.lab).all() for sample in samples)
