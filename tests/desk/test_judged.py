"""Files of Culmo judged by other programs, and theirs read by Culmo."""

import io
import shutil
import subprocess

import numpy as np
import pytest
from PIL.GimpPaletteFile import GimpPaletteFile

from culmo.core.colour.srgb import srgb_from_lab
from culmo.core.paint.readings import INK
from culmo.core.steps import run_through
from culmo.study import acts
from culmo.study.cgats import read_cgats
from culmo.study.exchange import exporting
from culmo.study.incoming import bring_in
from culmo.study.palette_files import read_gpl, write_gpl
from support.builders import make_study


def other(program):
    """Another program's path; its test is skipped where it is not installed, as set-up can not install it everywhere."""
    found = shutil.which(program)
    if found is None:
        pytest.skip(f"{program} is not installed")
    return found


def test_an_independent_colour_tool_reads_and_writes_our_measurements(study, tmp_path):
    run_through(exporting(study, tmp_path / "out"))
    ours, theirs = tmp_path / "out" / "readings.cgats.txt", tmp_path / "theirs.ti3"
    done = subprocess.run([other("colverify"), ours, ours], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert "avg err L* 0.000000" in done.stdout
    done = subprocess.run([other("average"), ours, ours, theirs], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    mine, bad = read_cgats(ours)
    back, bad_back = read_cgats(theirs)
    assert not bad and not bad_back
    assert [(s.name, s.ground) for s in mine] == [(s.name, s.ground) for s in back]
    assert np.abs(np.array([s.lab for s in mine]) - np.array([s.lab for s in back])).max() < 2e-3
    # a difference is seen by that tool as it is by us: the comparison can fail
    text = ours.read_text().splitlines()
    place = text.index("BEGIN_DATA") + 1
    words = text[place].split()
    text[place] = " ".join([*words[:2], str(float(words[2]) - 30.0), *words[3:]])
    (tmp_path / "moved.txt").write_text("\n".join(text))
    done = subprocess.run(
        [other("colverify"), ours, tmp_path / "moved.txt"], capture_output=True, text=True, check=False
    )
    assert "avg err L* 0.000000" not in done.stdout and done.returncode == 0


def test_readings_over_the_ink_line_stay_so_through_cgats(study, tmp_path):
    run_through(exporting(study, tmp_path / "out"))
    with make_study(tmp_path / "other.culmo", cards=False) as fresh:
        bring_in(fresh, tmp_path / "out" / "readings.cgats.txt", lambda _: None)
        ours = sorted((r["recipe"], r["ground"], round(r["L"], 3)) for r in study.rows("readings"))
        theirs = sorted((r["recipe"], r["ground"], round(r["L"], 3)) for r in fresh.rows("readings"))
    assert ours == theirs
    assert any(ground == INK for _, ground, _ in theirs)


def test_another_library_reads_our_colour_palettes(tmp_path):
    colours = [
        ("a\nb\tc", np.array([50.0, 10.0, 10.0])),
        ("", np.array([120.0, 0.0, 0.0])),
        ("n" * 300, np.zeros(3)),
    ]
    text = write_gpl("Title\nwith break " + "t" * 300, colours)
    palette, mode = GimpPaletteFile(io.BytesIO(text.encode())).getpalette()
    assert mode == "RGB"
    rgb = np.frombuffer(palette, np.uint8)[:9].reshape(3, 3)
    wanted = np.round(srgb_from_lab(np.array([lab for _, lab in colours])) * 255)
    assert np.abs(rgb - wanted).max() <= 1
    (tmp_path / "a.gpl").write_text(text)
    assert [name[:5] for name, _ in read_gpl(tmp_path / "a.gpl")] == ["a b c", "", "nnnnn"]
    with pytest.raises(SyntaxError):
        GimpPaletteFile(io.BytesIO(text.replace("GIMP", "OTHER").encode()))


def test_pdfs_pass_a_checker(qapp, study, tmp_path):
    from culmo.desk.drawing.book import BookOptions, Content, write_book
    from culmo.desk.drawing.export import export_sheet
    from support.builders import make_sheet

    study.apply(acts.add_sheet(study, make_sheet()))
    run_through(write_book(study, None, None, tmp_path / "book.pdf", Content(), BookOptions(charts="both")))
    export_sheet(make_sheet(), tmp_path / "sheet.pdf")
    for name in ("book.pdf", "sheet.pdf"):
        done = subprocess.run(
            [other("qpdf"), "--check", tmp_path / name], capture_output=True, text=True, check=False
        )
        assert done.returncode == 0, done.stdout + done.stderr
    (tmp_path / "cut.pdf").write_bytes((tmp_path / "book.pdf").read_bytes()[:-2000])
    done = subprocess.run(
        [other("qpdf"), "--check", tmp_path / "cut.pdf"], capture_output=True, text=True, check=False
    )
    assert done.returncode != 0
