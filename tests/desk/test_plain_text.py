"""What a painter named is text: never markup, never a pattern, as long as it likes; on every page, tip and export."""

import shutil
import sqlite3
import time
from contextlib import closing

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import Qt as TextQt
from PySide6.QtWidgets import QAbstractItemView, QApplication, QLabel, QToolTip, QWidget

from culmo.core.steps import run_through
from culmo.desk.app import settle
from culmo.desk.drawing.flow import wrap_mm
from culmo.desk.drawing.sheet import drawn_width_mm
from culmo.desk.drawing.whole import exporting_whole
from culmo.desk.widgets import as_label, as_tip
from culmo.study import acts, records
from culmo.study.file import Study
from support.absurd import walk
from support.hand import pages

NASTY = (
    '<img src="file:///dev/zero"><b>bold</b>', "%s %d {x} {0} {", "\u202eright to left\u202c", "zero\u200bwidth\ufeff",
    "w" * 10_000, "漢字假名" * 250, "Rose & Lemon && <br>", "a\tb", "'; DROP TABLE notes; --", "&amp; &lt;",
)  # fmt: skip
# every column that holds a painter's own words
FREE = {
    "meta": ("value",), "paints": ("note",), "boxes": ("name",), "papers": ("name",), "sheets": ("title",),
    "cells": ("note",), "strokes": ("note",), "notes": ("text",), "photos": ("name", "note"),
    "readings": ("note", "paper", "source"), "palettes": ("name", "purpose", "reason"), "targets": ("list", "name"),
    "events": ("text",), "fades": ("place",), "guesses": ("answer",),
}  # fmt: skip


@pytest.fixture
def planted(tmp_path, demo_file):
    """The sample study with such words in every field."""
    path = tmp_path / "planted.culmo"
    shutil.copy(demo_file, path)
    with Study(path) as study:
        for paint, name in zip(records.paints(study), NASTY, strict=False):
            short = name[:100].replace("\t", " ").strip()
            study.apply(acts.edit_paint(study, paint.id, acts.PaintEntry(short, paint.codes, note=name)))
    with closing(sqlite3.connect(path, isolation_level=None)) as db:
        for table, columns in FREE.items():
            ids = [row[0] for row in db.execute(f"SELECT id FROM {table} ORDER BY id DESC")]
            if table == "meta":
                ids = [row[0] for row in db.execute("SELECT id FROM meta WHERE key = 'title'")]
            for place, row_id in enumerate(ids[:40]):
                for column in columns:
                    text = NASTY[place % len(NASTY)]
                    text = f"{text[:9000]} {row_id}" if table in ("targets", "boxes") else text
                    db.execute(f"UPDATE {table} SET {column} = ? WHERE id = ?", (text, row_id))
        for row_id, layout in db.execute("SELECT id, layout FROM sheets").fetchall():
            db.execute("UPDATE sheets SET layout = ? WHERE id = ?",
                       (layout.replace('"title": "', '"title": "<b>'), row_id))  # fmt: skip
    return path


def is_rendered(text):
    """Whether Qt would take a name in it for markup."""
    return TextQt.mightBeRichText(text) and ("<img" in text or "<b>" in text)


def rendered(window):
    """What on view Qt would take for markup that is not ours: labels, tips, tips of entries."""
    labels = [label for label in window.findChildren(QLabel) if label.textFormat() == Qt.TextFormat.AutoText]
    texts = [label.text() for label in labels if TextQt.mightBeRichText(label.text())]
    tips = [widget.toolTip() for widget in window.findChildren(QWidget)]
    for view in window.findChildren(QAbstractItemView):
        model = view.model()
        rows = range(min(model.rowCount(), 50) if model is not None else 0)
        tips += [str(model.index(row, 0).data(Qt.ItemDataRole.ToolTipRole) or "") for row in rows]
    return [text[:80] for text in (*texts, *filter(is_rendered, tips))]


@pytest.mark.long
def test_no_page_takes_a_name_for_markup(window, planted):
    assert window.open_path(planted), window.notice.words.text()[:300]
    settle(window, 5)
    seen = []
    for _ in pages(window):
        seen += rendered(window)
    walk(window)
    seen += rendered(window)
    assert seen == []
    window.session.failed.emit(NASTY[0])
    window.session.told.emit(NASTY[0])
    assert window.notice.words.textFormat() == window.status.told_text.textFormat() == Qt.TextFormat.PlainText


@pytest.mark.long
def test_all_of_it_goes_out(planted, tmp_path, qapp):
    with Study(planted) as study:
        started = time.monotonic()
        written = run_through(exporting_whole(study, None, tmp_path / "out"))
        assert time.monotonic() - started < 60
    assert (tmp_path / "out" / "book.pdf") in written


def test_a_very_long_word_is_broken_in_time_that_grows_with_it(qapp):
    words = {}
    for count in (5_000, 20_000):
        word = "wi漢" * count
        started = time.monotonic()
        lines = wrap_mm(f"before {word} after", 4.0, 170.0)
        words[count] = time.monotonic() - started
        assert " ".join(lines).replace(" ", "") == f"before{word}after"
        assert all(drawn_width_mm(line, 4.0) <= 170.0 for line in lines)
    assert words[20_000] < 40 * max(words[5_000], 0.05)
    assert wrap_mm("a bb ccc", 4.0, 170.0) == ["a bb ccc"]
    assert wrap_mm("x", 4.0, 0.1) == ["x"]


def test_tips_and_labels_say_what_was_written(qapp):
    for text in NASTY:
        tip = as_tip(text)
        assert tip == text or ("<img" not in tip and "<b>" not in tip and TextQt.mightBeRichText(text))
    assert as_label("Rose & Lemon") == "Rose && Lemon"
    QToolTip.hideText()
    QApplication.processEvents()
