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
from culmo.study.sharing import SHARE_FORMAT, take_shared
from culmo.study.tables import open_csv, read_readings
from culmo.words import tr, trn

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
        return trn("{n} wanted colour", "{n} wanted colours", len(colours))
    if ending == ".csv":
        return _table(study, path, say, do)
    if ending in ENDINGS:
        return _measurements(study, path, say, do)
    raise CulmoError(
        tr(
            '"{name}" is of no kind that can be taken in: .csv, .json, .gpl, .txt, .cgats, .it8, .ti3',
            name=path.name,
        )
    )


def _sheets(study: Study, path: Path, do: Do) -> str:
    data = read_json(path, "sheet")
    if isinstance(data, dict) and data.get("format") == STUDY_FORMAT:
        raise CulmoError(
            tr(
                '"{name}" is a whole study; import it as a new one (culmo import NEW.culmo FOLDER)',
                name=path.name,
            )
        )
    if isinstance(data, dict) and data.get("format") == SHARE_FORMAT:
        command, what = take_shared(study, data, path.name)
        do(command)
        return what
    sheets = read_sheets(path)
    do(acts.add_sheets(study, sheets))
    return trn("{n} sheet", "{n} sheets", len(sheets))


def _table(study: Study, path: Path, say: Say, do: Do) -> str:
    first = next(open_csv(path), None)
    columns = {key.casefold() for key in first[1]} if first is not None else set()
    if "recipe" in columns:
        return _readings(study, path, say, do)
    if "name" in columns and columns & {"codes", "code", "pigment", "pigments"}:
        return _paints(study, path, do)
    good, bad = read_wanted(path)
    for line in bad:
        say(tr("{name}, {line}; left out", name=path.name, line=line))
    do(add_wanted(study, path.stem, good))
    return trn("{n} wanted colour", "{n} wanted colours", len(good))


def _readings(study: Study, path: Path, say: Say, do: Do) -> str:
    rows, bad = read_readings(path)
    for line in bad:
        say(tr("{name}, {line}; left out", name=path.name, line=line))
    if not rows:
        raise CulmoError(tr('"{name}" holds no reading that can be taken', name=path.name))
    known = {paint.name.casefold() for paint in paints(study, retired=True)}
    new = dict.fromkeys(
        name for row in rows for name in row.reading.recipe.names if name.casefold() not in known
    )
    once: dict[str, str] = {}
    for name in new:
        once.setdefault(name.casefold(), name)
    if once:
        do(box_acts.add_paints(study, [acts.PaintEntry(name) for name in once.values()]))
        say(
            tr(
                "{name}: {n} new paints came with its recipes: {what}",
                name=path.name,
                n=len(once),
                what=", ".join(once.values()),
            )
        )
    incoming = [
        acts.Incoming(
            row.reading,
            None,
            tuple((k, v) for k, v in row.values.items() if k not in ("sheet", "cell", "paper")),
        )
        for row in rows
    ]
    do(acts.add_readings(study, incoming, path.name))
    return trn("{n} reading", "{n} readings", len(rows))


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
        raise CulmoError(tr('"{name}" names no paint that is not in the study already', name=path.name))
    do(box_acts.add_paints(study, entries))
    return trn("{n} paint", "{n} paints", len(entries))


def _measurements(study: Study, path: Path, say: Say, do: Do) -> str:
    samples, bad = read_cgats(path)
    for line in bad:
        say(tr("{name}, {line}; left out", name=path.name, line=line))
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
                tr(
                    "{name}: {value} samples are named by no recipe of known paints; left out",
                    name=path.name,
                    value=len(samples) - len(incoming),
                )
            )
        do(acts.add_readings(study, incoming, path.name))
        return trn("{n} reading", "{n} readings", len(incoming))
    colours = [Wanted(s.name, (float(s.lab[0]), float(s.lab[1]), float(s.lab[2]))) for s in samples]
    do(add_wanted(study, path.stem, colours))
    return trn("{n} wanted colour", "{n} wanted colours", len(colours))
