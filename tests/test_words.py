"""The languages: nothing is left out, nothing is filled in wrongly, numbers and dates stand as they are written there."""

import ast
import io
import json
import re
import shutil
import subprocess
import sys
from datetime import datetime
from pathlib import Path
from string import Formatter

import pytest
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po
from tools.catalogue import LANGUAGES, LOCALE, SOURCE, brought_up_to_date, missing, said_in

from culmo import words
from culmo.core.chart.kinds import KINDS
from culmo.core.chart.page import Page
from culmo.core.paint.recipe import format_recipe, parse_recipe, spoken_recipe
from culmo.demo.sample import shipped
from culmo.desk.actions import ROOM_IDS
from culmo.study.file import Study
from support.builders import sample_study

ROOT = Path(__file__).parents[1]


@pytest.fixture
def german():
    """German for a test, and English again after it."""
    words.use("de_AT", ",")
    yield
    words.use("en")


def texts(message):
    return [message] if isinstance(message, str) else list(message)


def fields(text):
    return {name for _, name, _, _ in Formatter().parse(text) if name is not None}


@pytest.mark.long
@pytest.mark.parametrize("language", LANGUAGES)
def test_every_string_is_translated_and_the_shipped_file_is_the_translation(language):
    catalog = brought_up_to_date(language)
    assert len(list(catalog)) > 1500
    assert missing(catalog) == []
    out = io.BytesIO()
    write_mo(out, catalog)
    shipped = (LOCALE / language / "LC_MESSAGES" / "culmo.mo").read_bytes()
    assert shipped == out.getvalue(), "run `make words`"


@pytest.mark.long
@pytest.mark.parametrize("language", LANGUAGES)
def test_a_translation_fills_in_nothing_that_is_not_given(language):
    for message in brought_up_to_date(language):
        known = set().union(*(fields(text) for text in texts(message.id))) if message.id else set()
        for text in texts(message.string) if message.id and message.string else ():
            assert fields(text) <= known, message.id
            numbers = re.findall(r"\{\w+:([^}]*)\}", text)
            assert set(numbers) <= set(re.findall(r"\{\w+:([^}]*)\}", " ".join(texts(message.id)))), (
                message.id
            )


@pytest.mark.long
def test_what_is_translated_is_a_plain_string():
    """An f-string inside tr() would be looked up after it was filled in, and never be found."""
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if (
                isinstance(node, ast.Call)
                and isinstance(node.func, ast.Name)
                and node.func.id in ("tr", "trn")
            ):
                assert not any(isinstance(arg, ast.JoinedStr) for arg in node.args), (path, node.lineno)
    assert sum(len(list(said_in(path))) for path in SOURCE.rglob("*.py")) > 1500


def _called(node):
    return node.func.id if isinstance(node.func, ast.Name) else getattr(node.func, "attr", "")


def _trees():
    for path in SOURCE.rglob("*.py"):
        if not {"cli", "demo"} & set(
            path.relative_to(SOURCE).parts
        ):  # the commands speak English, as contracts do
            yield path.relative_to(SOURCE), ast.parse(path.read_text(encoding="utf-8"))


@pytest.mark.long
def test_what_is_translated_stands_there_as_it_is():
    """What a name holds is not gathered for the catalogue: it would stay in English for ever."""
    for path, tree in _trees():
        for node in ast.walk(tree):
            if isinstance(node, ast.Call) and _called(node) in ("trn", "trc"):
                for text in node.args[:2]:
                    assert isinstance(text, ast.Constant), (path, node.lineno)


@pytest.mark.long
def test_no_mistake_is_told_past_the_catalogue():
    """Words in an error, or in a value that is filled into a sentence, are translated themselves."""
    word = re.compile(r"[A-Za-z]{2,}")
    bare = []
    for path, tree in _trees():
        for node in ast.walk(tree):
            if not isinstance(node, ast.Call):
                continue
            name = _called(node)
            if name.endswith(("CulmoError", "StudyFileError")) or name == "fail":
                inside = [part for arg in node.args for part in _outside_calls(arg)]
            elif name in ("tr", "trn"):
                inside = [
                    part
                    for given in node.keywords
                    if given.arg != "column"
                    for part in _outside_calls(given.value)
                ]
            else:
                continue
            bare += [(str(path), node.lineno, text) for text in inside if word.search(text)]
    assert bare == []


def _outside_calls(node):
    """The texts in an expression that go through no function, and are no keys of what is looked up."""
    if isinstance(node, ast.Call | ast.Subscript | ast.Compare | ast.FormattedValue):
        return
    if isinstance(node, ast.Constant):
        if isinstance(node.value, str):
            yield node.value
        return
    for part in ast.iter_child_nodes(node):
        yield from _outside_calls(part)


def test_no_text_is_joined_by_an_english_word():
    """What stands in a row is listed by `words.listed`, which knows the language."""
    joined = re.compile(r"""["'] (?:and|or|of|with) ["']\.join""")
    found = {
        p.name: joined.findall(p.read_text(encoding="utf-8"))
        for p in SOURCE.rglob("*.py")
        if "cli" not in p.parts
    }
    assert {name: bad for name, bad in found.items() if bad} == {}


@pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.key)
def test_no_two_choices_of_a_kind_are_called_the_same(kind, german):
    shown = {**Page.described(), **kind.options.described()}
    for labels in ([own.label for own in shown.values()], [words.tr(own.label) for own in shown.values()]):
        assert len(set(labels)) == len(labels)


def test_words_in_a_row(german):
    assert [words.listed(row) for row in ([], ["Rose"], ["Rose", "Lemon"], ["Rose", "Lemon", "Sepia"])] == [
        "", "Rose", "Rose und Lemon", "Rose, Lemon und Sepia",
    ]  # fmt: skip


def test_the_way_out_of_doubt_is_said_right_in_any_language(german):
    """A mix is painted and read, a card is read only."""
    from culmo.core.paint.estimate import learn
    from culmo.core.paint.recipe import mix
    from culmo.core.paint.why import explain
    from support.paints import make_painter

    painter = make_painter(6, seed=2)
    names = [paint.name for paint in painter.paints]
    cards = painter.cards()
    everything = {name.casefold(): {(1.0, "paper"), (0.2, "paper"), (1.0, "ink")} for name in names}
    sentences = {
        explain(learn(names, cards), mix([a, b]), everything).sentence for a in names for b in names if a < b
    }
    told = [
        sentence for sentence in sentences if "keine Mischung" in sentence or "Keine Mischung" in sentence
    ]
    assert told
    for sentence in told:
        assert words.tr("painting and reading one") in sentence
        assert f"; {words.tr('reading it')} " not in sentence


@pytest.mark.long
def test_where_a_practice_photo_is_from_is_stored_in_no_language(german, study):
    """The record is read by whoever opens it; only what is shown is translated."""
    from culmo.core.paint.estimate import learn
    from culmo.core.steps import run_through
    from culmo.desk.rooms.read.trial import practice
    from culmo.study import acts, records
    from culmo.study.seen import PRACTICE
    from support.builders import make_sheet

    study.apply(acts.add_sheet(study, make_sheet()))
    record = records.sheet_record(study, 1)
    estimate = learn([paint.name for paint in records.paints(study)], records.readings(study))
    source = run_through(practice(record, estimate, lambda _: 0.1, datetime(2026, 3, 3), 5))
    assert source.source == PRACTICE == "practice photo"
    assert source.name == words.tr("practice photo.jpg") != "practice photo.jpg"
    assert source.data.startswith(b"\xff\xd8")


def test_numbers_dates_and_plurals_of_the_place(german):
    assert words.language() == "de"
    assert words.tr("within {value:.1f}", value=2.5) == "± 2,5"
    assert words.tr("{L:.1f}, {a:.1f}, {b:.1f}", L=1.0, a=2.0, b=3.5) == "1,0, 2,0, 3,5"
    assert words.decimal("3.14") == "3,14"
    assert words.trn("{n} paint", "{n} paints", 1) == "1 Farbe"
    assert words.trn("{n} paint", "{n} paints", 0) == "0 Farben"
    assert words.trc("room", "Paint") == "Malen" != words.tr("Paint")
    day = datetime(2026, 11, 3, 14, 5)
    assert words.day_words(day) == "Dienstag, 3. November 2026"
    assert words.day_words(day, weekday=False) == "3. November 2026"
    assert words.clock_words(day) == "14:05"
    assert words.tr("a text that nobody has translated") == "a text that nobody has translated"


def test_hours_to_twelve_and_unknown_languages():
    try:
        assert words.use("en_US", ".", half_days=True) == "en"
        assert words.clock_words(datetime(2026, 1, 1, 0, 5)) == "12:05 am"
        assert words.clock_words(datetime(2026, 1, 1, 13, 5)) == "1:05 pm"
        assert words.use("xx_YY") == "en"
        assert words.day_words(datetime(2026, 11, 3)) == "Tuesday, 3 November 2026"
    finally:
        words.use("en")


@pytest.mark.parametrize("room", ROOM_IDS)
def test_each_room_has_its_page_in_each_language(room, german):
    from culmo.desk.help import room_text

    own = room_text(room)
    words.use("en")
    assert own != room_text(room)
    assert own.startswith("# ") and len(own) > 800


@pytest.mark.long
@pytest.mark.parametrize("size", [100, 130])
def test_the_window_speaks_german_alone_and_nothing_is_cut_at_1024_by_700(tmp_path, size):
    """Every page of every room with the sample study, in a process of its own: a language is chosen once."""
    shutil.copy(sample_study(tmp_path), tmp_path / "s.culmo")
    done = subprocess.run(
        [sys.executable, "-m", "support.looking", "de", tmp_path / "s.culmo", tmp_path, str(size)],
        capture_output=True, text=True, cwd=ROOT / "tests", check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-2000:]
    assert done.stdout == ""


@pytest.mark.long
def test_nothing_in_the_window_stands_past_the_catalogue_or_is_cut_in_a_longer_language(tmp_path):
    """Every page of every room in a language that puts each of its texts in brackets, longer by four tenths, at the largest
    text that must have room: what stands bare was forgotten, and what is cut has no room for another language."""
    shutil.copy(sample_study(tmp_path), tmp_path / "s.culmo")
    done = subprocess.run(
        [sys.executable, "-m", "support.looking", "pseudo", tmp_path / "s.culmo", tmp_path, "130"],
        capture_output=True, text=True, cwd=ROOT / "tests", check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-2000:]
    assert done.stdout == ""


# what is said to the painter stays in the language in which it was said, and so does what is ruled on a sheet, which is
# in its picture
_SAID = {"events": {"text"}, "patches": {"data", "digest", "seen", "texture", "left_mm", "top_mm", "per_mm"}}


def test_the_record_is_the_same_in_each_language(tmp_path):
    """The sample study, with all its acts, as it was made by a painter of each language."""
    studies = {}
    for code in words.LANGUAGES:
        path = tmp_path / f"{code}.culmo"
        path.write_bytes(shipped(code))
        with Study(path) as study:
            assert study.problems() == []
            studies[code] = json.loads(json.dumps(study.dump(), default=str))
    for code in words.LANGUAGES[1:]:
        for table, rows in studies["en"].items():
            for own, other in zip(rows, studies[code][table], strict=True):
                kept = own.keys() - _SAID.get(table, set())
                own, other = ({**row, "layout": _unlettered(row.get("layout"))} for row in (own, other))
                assert {key: own[key] for key in kept} == {key: other[key] for key in kept}, table


def _unlettered(layout):
    """A sheet's layout without the words that are ruled on it."""
    return {**json.loads(layout), "labels": None} if layout else layout


def test_recipes_are_written_alike_in_each_language(german):
    text = 'Rose:3 + Lemon @ tint over Sepia @ 0.35 over "x over y"'
    assert format_recipe(parse_recipe(text)) == text
    assert (
        spoken_recipe(parse_recipe(text))
        == "3 Rose + 1 Lemon, Aufhellung über Sepia, blasse Lasur (eins zu zwei Wasser) über x over y"
    )


_CLAIMS = """
from culmo import words
words.use("de", ",")
from itertools import product
from culmo.core.paint.entry import parse_line
from culmo.data import pigment_table
from culmo.core.paint.claims import claims_text
table = pigment_table()
for cover, stain, grain, light in product(("", "transparent", "semi-transparent", "semi-opaque", "opaque"),
        ("", "low", "medium", "high"), ("", "no", "slight", "medium", "high"), ("", "excellent", "good", "fair", "poor")):
    claims = dict(zip(("transparency", "staining", "granulation", "lightfastness"), (cover, stain, grain, light)))
    claims = {key: value for key, value in claims.items() if value}
    line = parse_line(f"Rose PV19, {claims_text(claims)}", table)
    assert (line.name, dict(line.claims)) == ("Rose", claims), (claims, line)
line = parse_line("PB29 lasierend, stark granulierend, nur erwogen, halber Napf", table)
assert line.name == "Ultramarinblau" and dict(line.claims) == {
    "transparency": "transparent", "granulation": "high", "status": "wished", "pan": "half"}, line
assert dict(parse_line("PB29 strongly granulating", table).claims) == {"granulation": "high"}
"""


def test_what_a_label_claims_is_typed_in_german_and_read_again():
    done = subprocess.run([sys.executable, "-c", _CLAIMS], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr[-2000:]


def test_the_language_is_the_systems_or_the_painters(tmp_path, monkeypatch):
    from culmo.desk.language import speak
    from culmo.desk.settings import Settings

    settings = Settings.at(tmp_path / "s.ini")
    try:
        settings.language = "de"
        assert speak(settings) == "de"
        settings.language = "en"
        assert speak(settings) == "en"
    finally:
        words.use("en")


def test_a_translator_gets_whole_clauses():
    """What is put behind other words begins with none of the marks that part them, and ends with none."""
    with (LOCALE / "de" / "LC_MESSAGES" / "culmo.po").open("rb") as file:
        ids = [message.id for message in read_po(file)]
    texts = [text for own in ids for text in ([own] if isinstance(own, str) else own)]
    assert len(texts) > 2500
    assert [text for text in texts if text and (text[0] in ";,:." or text[-1] in ";,")] == []
