"""The study file's tables, version by version. docs/study-file.md explains each."""

APPLICATION_ID = 0x43756C6D  # "Culm"
SUFFIX = ".culmo"  # of a study's file

_V1 = """
CREATE TABLE meta (id INTEGER PRIMARY KEY, key TEXT NOT NULL UNIQUE, value TEXT NOT NULL);
CREATE TABLE paints (
    id INTEGER PRIMARY KEY, name TEXT NOT NULL, codes TEXT NOT NULL DEFAULT '',
    status TEXT NOT NULL DEFAULT 'owned' CHECK (status IN ('owned', 'sample', 'wished')),
    position INTEGER NOT NULL DEFAULT 0, retired INTEGER NOT NULL DEFAULT 0,
    grain REAL, note TEXT NOT NULL DEFAULT '', label TEXT NOT NULL DEFAULT '{}', created TEXT NOT NULL);
CREATE TABLE boxes (
    id INTEGER PRIMARY KEY, name TEXT NOT NULL, rows INTEGER NOT NULL, columns INTEGER NOT NULL,
    settings TEXT NOT NULL DEFAULT '{}', created TEXT NOT NULL);
CREATE TABLE wells (
    id INTEGER PRIMARY KEY, box_id INTEGER NOT NULL REFERENCES boxes(id),
    place INTEGER NOT NULL, paint_id INTEGER REFERENCES paints(id), pan TEXT NOT NULL DEFAULT 'half');
CREATE INDEX wells_by_box ON wells(box_id, place);
CREATE TABLE papers (
    id INTEGER PRIMARY KEY, name TEXT NOT NULL, width_mm REAL NOT NULL, height_mm REAL NOT NULL,
    note TEXT NOT NULL DEFAULT '');
CREATE TABLE sheets (
    id INTEGER PRIMARY KEY, title TEXT NOT NULL, kind TEXT NOT NULL, layout TEXT NOT NULL,
    archived INTEGER NOT NULL DEFAULT 0, replaces INTEGER REFERENCES sheets(id), created TEXT NOT NULL);
CREATE TABLE cells (
    id INTEGER PRIMARY KEY, sheet_id INTEGER NOT NULL REFERENCES sheets(id), cell TEXT NOT NULL,
    place INTEGER NOT NULL, recipe TEXT NOT NULL, ground TEXT NOT NULL, outline_mm TEXT NOT NULL,
    fade_mm TEXT, work_order INTEGER NOT NULL DEFAULT 0, at_minute REAL,
    keeper INTEGER NOT NULL DEFAULT 0, note TEXT NOT NULL DEFAULT '', UNIQUE (sheet_id, cell));
CREATE TABLE runs (
    id INTEGER PRIMARY KEY, sheet_id INTEGER NOT NULL REFERENCES sheets(id),
    started TEXT NOT NULL, ended TEXT, settings TEXT NOT NULL DEFAULT '{}');
CREATE TABLE strokes (
    id INTEGER PRIMARY KEY, run_id INTEGER NOT NULL REFERENCES runs(id), cell_id INTEGER NOT NULL REFERENCES cells(id),
    act TEXT NOT NULL CHECK (act IN ('done', 'skip')), at TEXT NOT NULL,
    how TEXT NOT NULL DEFAULT 'tray', marks TEXT NOT NULL DEFAULT '', note TEXT NOT NULL DEFAULT '');
CREATE INDEX strokes_by_run ON strokes(run_id);
CREATE TABLE photos (
    id INTEGER PRIMARY KEY, sheet_id INTEGER REFERENCES sheets(id), path TEXT NOT NULL DEFAULT '', data BLOB,
    taken TEXT, note TEXT NOT NULL DEFAULT '', created TEXT NOT NULL);
CREATE TABLE readings (
    id INTEGER PRIMARY KEY, recipe TEXT NOT NULL, ground TEXT NOT NULL DEFAULT 'paper' CHECK (ground IN ('paper', 'ink')),
    L REAL NOT NULL, a REAL NOT NULL, b REAL NOT NULL,
    sheet_id INTEGER REFERENCES sheets(id), cell_id INTEGER REFERENCES cells(id), photo_id INTEGER REFERENCES photos(id),
    paper TEXT NOT NULL DEFAULT '', source TEXT NOT NULL DEFAULT 'typed', taken TEXT NOT NULL,
    dry_hours REAL, granulation REAL, separation REAL,
    trust TEXT NOT NULL DEFAULT 'good' CHECK (trust IN ('good', 'wet', 'doubtful', 'excluded')),
    note TEXT NOT NULL DEFAULT '', extra TEXT NOT NULL DEFAULT '{}');
CREATE INDEX readings_by_cell ON readings(cell_id);
CREATE TABLE notes (
    id INTEGER PRIMARY KEY, text TEXT NOT NULL, sheet_id INTEGER REFERENCES sheets(id),
    paint_id INTEGER REFERENCES paints(id), created TEXT NOT NULL);
CREATE TABLE palettes (
    id INTEGER PRIMARY KEY, name TEXT NOT NULL, paints TEXT NOT NULL, purpose TEXT NOT NULL DEFAULT '',
    reason TEXT NOT NULL DEFAULT '', created TEXT NOT NULL);
CREATE TABLE targets (
    id INTEGER PRIMARY KEY, list TEXT NOT NULL, name TEXT NOT NULL DEFAULT '',
    L REAL NOT NULL, a REAL NOT NULL, b REAL NOT NULL, place INTEGER NOT NULL DEFAULT 0);
CREATE TABLE events (
    id INTEGER PRIMARY KEY, at TEXT NOT NULL, kind TEXT NOT NULL, text TEXT NOT NULL,
    sheet_id INTEGER, cell_id INTEGER, paint_id INTEGER);
CREATE INDEX events_by_time ON events(at);
"""

# what is done to dry paint before it is read; fade tests; roles that the painter gave
_V2 = """
ALTER TABLE cells ADD COLUMN treatment TEXT NOT NULL DEFAULT '';
ALTER TABLE readings ADD COLUMN treatment TEXT NOT NULL DEFAULT '';
CREATE TABLE fades (
    id INTEGER PRIMARY KEY, sheet_id INTEGER NOT NULL REFERENCES sheets(id), started TEXT NOT NULL,
    place TEXT NOT NULL DEFAULT '', weeks TEXT NOT NULL DEFAULT '[]', ended TEXT);
CREATE TABLE roles (
    id INTEGER PRIMARY KEY, role TEXT NOT NULL UNIQUE, paint_id INTEGER NOT NULL REFERENCES paints(id));
"""

# strokes of single layers, repainting, what was found dry; breaks; where a sheet lies in its photo
_V3 = """
CREATE TABLE strokes_3 (
    id INTEGER PRIMARY KEY, run_id INTEGER NOT NULL REFERENCES runs(id), cell_id INTEGER NOT NULL REFERENCES cells(id),
    act TEXT NOT NULL CHECK (act IN ('done', 'skip', 'repaint')), at TEXT NOT NULL,
    how TEXT NOT NULL DEFAULT 'tray', marks TEXT NOT NULL DEFAULT '', note TEXT NOT NULL DEFAULT '',
    layer INTEGER NOT NULL DEFAULT 0, dried TEXT);
INSERT INTO strokes_3 (id, run_id, cell_id, act, at, how, marks, note)
    SELECT id, run_id, cell_id, act, at, how, marks, note FROM strokes;
DROP TABLE strokes;
ALTER TABLE strokes_3 RENAME TO strokes;
CREATE INDEX strokes_by_run ON strokes(run_id);
CREATE TABLE pauses (
    id INTEGER PRIMARY KEY, run_id INTEGER NOT NULL REFERENCES runs(id), started TEXT NOT NULL, ended TEXT);
ALTER TABLE photos ADD COLUMN name TEXT NOT NULL DEFAULT '';
ALTER TABLE photos ADD COLUMN placement TEXT NOT NULL DEFAULT '{}';
"""

# what a kept palette reached when it was kept, and answers of "Guess first"
_V4 = """
ALTER TABLE palettes ADD COLUMN reach TEXT NOT NULL DEFAULT '{}';
CREATE TABLE guesses (
    id INTEGER PRIMARY KEY, at TEXT NOT NULL, kind TEXT NOT NULL CHECK (kind IN ('which', 'parts')),
    recipe TEXT NOT NULL, answer TEXT NOT NULL DEFAULT '', away REAL NOT NULL);
CREATE INDEX targets_by_list ON targets(list, place);
"""

# pictures that belong to a note; from a line of the Daybook to its note
_V5 = """
ALTER TABLE photos ADD COLUMN note_id INTEGER REFERENCES notes(id);
ALTER TABLE events ADD COLUMN note_id INTEGER;
CREATE INDEX strokes_by_cell ON strokes(cell_id);
CREATE INDEX readings_by_sheet ON readings(sheet_id);
"""

# which file this is, and how often it was written: by it a journal is told from another file's; what was typed and not
# saved, which teaches nothing
_V6 = """
CREATE TABLE origin (
    id INTEGER PRIMARY KEY CHECK (id = 1), token TEXT NOT NULL, acts INTEGER NOT NULL DEFAULT 0,
    of_token TEXT NOT NULL DEFAULT '', of_acts INTEGER NOT NULL DEFAULT 0);
INSERT INTO origin (id, token) VALUES (1, lower(hex(randomblob(16))));
CREATE TABLE drafts (
    id INTEGER PRIMARY KEY, place TEXT NOT NULL UNIQUE, room INTEGER NOT NULL DEFAULT 0, name TEXT NOT NULL,
    content TEXT NOT NULL, at TEXT NOT NULL);
"""

# how a cell is painted beside others, in which stage, and how its paints come together. Of what earlier versions planned:
# the boxes beside a ladder are wet in wet, and what was read of them teaches no parts; the strokes of a fan that are halves
# of one cell meet; all other halves are painted one after the other
_V7 = """
ALTER TABLE cells ADD COLUMN meets TEXT NOT NULL DEFAULT '[]';
ALTER TABLE cells ADD COLUMN half_of TEXT NOT NULL DEFAULT '';
ALTER TABLE cells ADD COLUMN stage TEXT NOT NULL DEFAULT '';
ALTER TABLE cells ADD COLUMN mixing TEXT NOT NULL DEFAULT '';
ALTER TABLE cells ADD COLUMN shape TEXT NOT NULL DEFAULT '';
ALTER TABLE readings ADD COLUMN mixing TEXT NOT NULL DEFAULT '';
UPDATE cells SET mixing = 'wet' WHERE fade_mm IS NULL AND treatment = ''
    AND sheet_id IN (SELECT id FROM sheets WHERE kind = 'ladder');
UPDATE readings SET mixing = 'wet' WHERE cell_id IN (SELECT id FROM cells WHERE mixing = 'wet');
UPDATE cells SET half_of = SUBSTR(cell, 1, LENGTH(cell) - 1) WHERE cell LIKE '%b' AND EXISTS (SELECT 1 FROM cells o
    WHERE o.sheet_id = cells.sheet_id AND o.cell = SUBSTR(cells.cell, 1, LENGTH(cells.cell) - 1));
UPDATE cells SET meets = JSON_ARRAY(half_of), half_of = '' WHERE half_of <> ''
    AND sheet_id IN (SELECT id FROM sheets WHERE kind = 'fan');
UPDATE cells SET meets = JSON_ARRAY(cell || 'b') WHERE EXISTS (SELECT 1 FROM cells o
    WHERE o.sheet_id = cells.sheet_id AND o.cell = cells.cell || 'b' AND o.meets <> '[]');
"""

# of which cell of an earlier version of the sheet a cell has the record; no foreign key, for a cell outlives the loss of it.
# What the painter's papers are like
_V8 = """
ALTER TABLE cells ADD COLUMN of_cell INTEGER;
CREATE INDEX cells_by_earlier ON cells(of_cell) WHERE of_cell NOT NULL;
ALTER TABLE papers ADD COLUMN tooth TEXT NOT NULL DEFAULT 'cold pressed';
ALTER TABLE papers ADD COLUMN tone TEXT NOT NULL DEFAULT '';
ALTER TABLE papers ADD COLUMN gutter_mm REAL NOT NULL DEFAULT 0;
"""

# mixes that were kept though they stand on no sheet
_V9 = """
CREATE TABLE mixes (
    id INTEGER PRIMARY KEY, recipe TEXT NOT NULL, note TEXT NOT NULL DEFAULT '', created TEXT NOT NULL);
"""

# more kinds of questions; pairs that were drawn to be painted, with the guess, and what was predicted when it was made
_V10 = """
CREATE TABLE guesses_now (
    id INTEGER PRIMARY KEY, at TEXT NOT NULL, kind TEXT NOT NULL CHECK (kind IN ('which', 'parts', 'paints', 'dries')),
    recipe TEXT NOT NULL, answer TEXT NOT NULL DEFAULT '', away REAL NOT NULL);
INSERT INTO guesses_now SELECT id, at, kind, recipe, answer, away FROM guesses;
DROP TABLE guesses;
ALTER TABLE guesses_now RENAME TO guesses;
CREATE TABLE draws (
    id INTEGER PRIMARY KEY, at TEXT NOT NULL, recipe TEXT NOT NULL, L REAL NOT NULL, a REAL NOT NULL, b REAL NOT NULL,
    predicted TEXT NOT NULL DEFAULT '[]');
"""

# what a picture showed of a cell, as the camera saw it; readings of before have none
_V11 = """
ALTER TABLE readings ADD COLUMN seen TEXT NOT NULL DEFAULT '';
"""

# the real paint of a cell, cut out of a picture
_V12 = """
CREATE TABLE patches (
    id INTEGER PRIMARY KEY, reading_id INTEGER NOT NULL REFERENCES readings(id), seen TEXT NOT NULL DEFAULT '',
    source TEXT NOT NULL DEFAULT 'photo', taken TEXT NOT NULL,
    left_mm REAL NOT NULL, top_mm REAL NOT NULL, width_mm REAL NOT NULL, height_mm REAL NOT NULL, per_mm REAL NOT NULL,
    path TEXT NOT NULL DEFAULT '', digest TEXT NOT NULL DEFAULT '', data BLOB,
    texture TEXT NOT NULL DEFAULT '', created TEXT NOT NULL);
CREATE INDEX patches_by_reading ON patches(reading_id);
"""

# each entry brings a file from the version before to the next
MIGRATIONS: tuple[str, ...] = (_V1, _V2, _V3, _V4, _V5, _V6, _V7, _V8, _V9, _V10, _V11, _V12)
VERSION = len(MIGRATIONS)
ADDED = {
    "mixes": 9,
    "draws": 10,
    "patches": 12,
}  # the tables that came after whole studies first went out, with the version that brought them
# the record: what acts change and undo, what goes out and comes back. Parents before children, so that
# rows can be written in this order and removed in the other
TABLES = (
    "meta", "paints", "boxes", "wells", "papers", "sheets", "cells", "runs", "strokes", "notes", "photos", "readings",
    "patches", "palettes", "targets", "events", "fades", "roles",
    "pauses", "guesses", "mixes", "draws",
)  # fmt: skip
