"""CGATS files: what instruments and colour tools write, and what is wrong with the rest."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culmo.core.colour.adapt import D50_WHITE, adapt_xyz, lab_from_d50, lab_from_spectrum, lab_to_d50
from culmo.core.colour.cielab import lab_from_reflectance
from culmo.core.colour.spectral import DAYLIGHT, WAVELENGTH_NM
from culmo.errors import CulmoError
from culmo.study.cgats import parse_cgats, read_cgats, write_cgats
from culmo.study.measured import read_card


def text(fields, rows, head=""):
    lines = [
        "CGATS.17",
        head,
        "BEGIN_DATA_FORMAT",
        fields,
        "END_DATA_FORMAT",
        "BEGIN_DATA",
        *rows,
        "END_DATA",
    ]
    return "\n".join(lines)


lab_values = st.tuples(st.floats(5, 95), st.floats(-60, 60), st.floats(-60, 60))


@given(st.lists(lab_values, min_size=1, max_size=6))
def test_what_is_written_is_read_again(colours):
    names = [f'Rose:{i} + "a b"' for i in range(len(colours))]
    samples, bad = parse_cgats(write_cgats(names, np.array(colours), 'A "title"'), "a.txt")
    assert not bad
    assert [s.name for s in samples] == [name.replace('"', "'") for name in names]
    assert np.allclose([s.lab for s in samples], colours, atol=1e-3)


@given(lab_values)
def test_d50_and_back(lab):
    assert np.allclose(lab_from_d50(lab_to_d50(np.array(lab))), lab, atol=1e-6)


def test_white_stays_white_and_spectra_agree_with_the_tables():
    assert np.allclose(lab_from_d50(np.array([100.0, 0.0, 0.0])), [100, 0, 0], atol=1e-9)
    assert np.allclose(adapt_xyz(D50_WHITE, D50_WHITE), DAYLIGHT.white)
    curve = 0.2 + 0.6 / (1 + np.exp(-(WAVELENGTH_NM - 560) / 20))
    assert np.allclose(lab_from_spectrum(WAVELENGTH_NM, curve), lab_from_reflectance(curve), atol=1e-9)
    coarse = lab_from_spectrum(WAVELENGTH_NM[::2], curve[::2])
    assert np.abs(coarse - lab_from_reflectance(curve)).max() < 1.0
    with pytest.raises(CulmoError):
        lab_from_spectrum(np.arange(500.0, 600.0, 10.0), np.ones(10))


def test_lab_xyz_and_spectral_files_give_the_same_colour():
    curve = 0.2 + 0.6 / (1 + np.exp(-(WAVELENGTH_NM - 560) / 20))
    lab = lab_from_reflectance(curve)
    d50 = lab_to_d50(lab)
    fields = "SAMPLE_ID " + " ".join(f"SPECTRAL_NM_{int(w)}" for w in WAVELENGTH_NM)
    spectral, _ = parse_cgats(text(fields, ["A1 " + " ".join(f"{v:.6f}" for v in curve)]), "s")
    percent, _ = parse_cgats(text(fields, ["A1 " + " ".join(f"{100 * v:.4f}" for v in curve)]), "s")
    plain, _ = parse_cgats(text("SAMPLE_ID LAB_L LAB_A LAB_B", [f"A1 {d50[0]} {d50[1]} {d50[2]}"]), "s")
    light = 'ILLUMINATION_NAME "D65"'
    day, _ = parse_cgats(text("SAMPLE_ID LAB_L LAB_A LAB_B", [f"A1 {lab[0]} {lab[1]} {lab[2]}"], light), "s")
    for found in (spectral, percent, plain, day):
        assert np.allclose(found[0].lab, lab, atol=0.02)


def test_bad_rows_are_named_and_the_good_ones_stand():
    rows = ["A1 50 0 0", "A2 50 0", "A3 fifty 0 0", "A4 500 0 0", '"A 5" 40,5 1 1']
    samples, bad = parse_cgats(text("SAMPLE_ID LAB_L LAB_A LAB_B", rows), "a.txt")
    assert [s.id for s in samples] == ["A1", "A 5"]
    assert len(bad) == 3
    assert "line 8" in bad[0]


@pytest.mark.parametrize(
    ("content", "words"),
    [("", "not a CGATS"), ("hello\nworld", "not a CGATS"), (text("SAMPLE_ID CMYK_C", ["A 1"]), "no colours")],
)
def test_other_files_are_refused(content, words, tmp_path):
    (tmp_path / "a.txt").write_text(content)
    with pytest.raises(CulmoError, match=words):
        read_cgats(tmp_path / "a.txt")
    with pytest.raises(CulmoError, match="can not be read"):
        read_cgats(tmp_path / "none.txt")


@given(st.text(max_size=300))
def test_any_text_is_read_or_refused(content):
    try:
        parse_cgats(
            "BEGIN_DATA_FORMAT\nSAMPLE_ID LAB_L LAB_A LAB_B\nEND_DATA_FORMAT\nBEGIN_DATA\n" + content, "a"
        )
    except CulmoError:
        return


def test_a_card_is_read_from_csv_and_from_cgats(tmp_path):
    (tmp_path / "card.csv").write_text("name,L,a,b\nwhite,95,0,0\ngrey,50,0,0\n")
    assert [name for name, _ in read_card(tmp_path / "card.csv")] == ["white", "grey"]
    (tmp_path / "card.txt").write_text(write_cgats(["w", "g"], np.array([[95.0, 0, 0], [50, 0, 0]]), "card"))
    assert np.allclose(
        [lab for _, lab in read_card(tmp_path / "card.txt")], [[95, 0, 0], [50, 0, 0]], atol=1e-3
    )
    (tmp_path / "card.csv").write_text("name,L,a,b\nwhite,95,x,0\n")
    with pytest.raises(CulmoError, match=r"card\.csv"):
        read_card(tmp_path / "card.csv")
