"""Open files into a study: readings, sheets, lists of paints, palettes of colours, measurements."""

from collections.abc import Callable
from pathlib import Path

from culmo.core.paint.entry import parse_list
from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import parse_recipe
from culmo.data import pigment_table
from culmo.errors import CulmoError
from culmo.study import acts, box_acts
from culmo.study.cgats import ENDINGS, read_cgats
from culmo.study.exchange import STUDY_FORMAT, read_gpl, read_json, read_sheets, recipes_known
from culmo.study.file import Command, Study
from culmo.study.palette_acts import Wanted, add_wanted, read_wanted
from culmo.study.records import paints
from culmo.study.tables import open_csv, read_readings

Say = Callable[[str], None]
Do = Callable[[Command], object]


def bring_in(study: Study, path: Path, say: Say, do: Do | None = None) -> str:
    """Take a file into a study by what it holds; gives what came, in words.

    A CSV with recipes is taken for readings, one with names and codes for paints, one with colours alone for wanted
    colours; JSON for a sheet; GPL for wanted colours; CGATS for readings where its samples are named by recipes.

    Parameters
    ----------
    study : Study
    path : Path
    say : function that is told of rows that can not be taken
    do : function that carries out an act, so that it can be undone; the study's own where absent

    Raises
    ------
    CulmoError
        when the file can not be taken; the study is then unchanged
    """
    do = do or study.apply
    ending = path.suffix.casefold()
    if ending == ".json":
        return _sheets(study, path, do)
    if ending == ".gpl":
        colours = [Wanted(name, (float(L), float(a), float(b))) for name, (L, a, b) in read_gpl(path)]
        do(add_wanted(study, path.stem, colours))
        return f"{len(colours)} wanted colours"
    if ending == ".csv":
        return _table(study, path, say, do)
    if ending in ENDINGS:
        return _measurements(study, path, say, do)
    raise CulmoError(
        f'"{path.name}" is of no kind that can be taken in: .csv, .json, .gpl, .txt, .cgats, .it8, .ti3'
    )


def _sheets(study: Study, path: Path, do: Do) -> str:
    data = read_json(path, "sheet")
    if isinstance(data, dict) and data.get("format") == STUDY_FORMAT:
        raise CulmoError(
            f'"{path.name}" is a whole study; import it as a new one (culmo import NEW.culmo FOLDER)'
        )
    sheets = read_sheets(path)
    do(acts.add_sheets(study, sheets))
    return f"{len(sheets)} sheet{'s' if len(sheets) != 1 else ''}"


def _table(study: Study, path: Path, say: Say, do: Do) -> str:
    first = next(open_csv(path), None)
    columns = {key.casefold() for key in first[1]} if first is not None else set()
    if "recipe" in columns:
        return _readings(study, path, say, do)
    if "name" in columns and columns & {"codes", "code", "pigment", "pigments"}:
        return _paints(study, path, do)
    good, bad = read_wanted(path)
    for line in bad:
        say(f"{path.name}, {line}; left out")
    do(add_wanted(study, path.stem, good))
    return f"{len(good)} wanted colours"


def _readings(study: Study, path: Path, say: Say, do: Do) -> str:
    rows, bad = read_readings(path)
    for line in bad:
        say(f"{path.name}, {line}; left out")
    if not rows:
        raise CulmoError(f'"{path.name}" holds no reading that can be taken')
    known = {paint.name.casefold() for paint in paints(study, retired=True)}
    new = dict.fromkeys(
        name for row in rows for name in row.reading.recipe.names if name.casefold() not in known
    )
    once: dict[str, str] = {}
    for name in new:
        once.setdefault(name.casefold(), name)
    if once:
        do(box_acts.add_paints(study, [acts.PaintEntry(name) for name in once.values()]))
        say(f"{path.name}: {len(once)} new paints came with its recipes: {', '.join(once.values())}")
    incoming = [
        acts.Incoming(
            row.reading,
            None,
            tuple((k, v) for k, v in row.values.items() if k not in ("sheet", "cell", "paper")),
        )
        for row in rows
    ]
    do(acts.add_readings(study, incoming, path.name))
    return f"{len(rows)} readings"


def _paints(study: Study, path: Path, do: Do) -> str:
    lines = []
    for _, row in open_csv(path):
        named = {key.casefold(): value.strip() for key, value in row.items() if key}
        codes = next((named[key] for key in ("codes", "code", "pigments", "pigment") if named.get(key)), "")
        if named.get("name"):
            lines.append((named["name"], codes))
    table = pigment_table()
    known = {paint.name.casefold() for paint in paints(study, retired=True)}
    entries = []
    for name, codes in lines:
        if name.casefold() not in known:
            known.add(name.casefold())
            found = parse_list(f"{name} {codes}", table)
            entries.append(acts.PaintEntry(name, codes or (" + ".join(found[0].codes) if found else "")))
    if not entries:
        raise CulmoError(f'"{path.name}" names no paint that is not in the study already')
    do(box_acts.add_paints(study, entries))
    return f"{len(entries)} paints"


def _measurements(study: Study, path: Path, say: Say, do: Do) -> str:
    samples, bad = read_cgats(path)
    for line in bad:
        say(f"{path.name}, {line}; left out")
    known = [paint.name for paint in paints(study, retired=True)]
    recipes = recipes_known([sample.name for sample in samples], known)
    incoming = []
    for sample, recipe in zip(samples, recipes, strict=True):
        if recipe is not None:
            L, a, b = (float(value) for value in sample.lab)
            incoming.append(
                acts.Incoming(
                    Reading(parse_recipe(recipe), (L, a, b), sample.ground), None, (("source", "instrument"),)
                )
            )
    if incoming:
        if len(incoming) < len(samples):
            say(
                f"{path.name}: {len(samples) - len(incoming)} samples are named by no recipe of known paints; left out"
            )
        do(acts.add_readings(study, incoming, path.name))
        return f"{len(incoming)} readings"
    colours = [Wanted(s.name, (float(s.lab[0]), float(s.lab[1]), float(s.lab[2]))) for s in samples]
    do(add_wanted(study, path.stem, colours))
    return f"{len(colours)} wanted colours"
