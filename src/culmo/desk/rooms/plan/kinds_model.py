"""The kinds of sheet as a painter would begin each with the paints at hand."""

from collections.abc import Generator, Sequence
from dataclasses import dataclass

from culmo.core.chart.aids import Aids
from culmo.core.chart.kind import Kind
from culmo.core.chart.kinds import KINDS
from culmo.core.chart.options import SomePaints, quoted_name
from culmo.core.chart.plans import lay_out, plan_of
from culmo.core.chart.sheet import Sheet
from culmo.core.chart.washes import Pace
from culmo.desk.rooms.plan.model import minutes_text, texts_of
from culmo.errors import CulmoError
from culmo.words import tr, trn

MOST_PAINTS = 12
_FEW = {"fan": 6, "ladder": 2, "triangle": 3, "palette": 5, "cards": 6, "wheel": 6}
_SPREAD = ("fan", "ladder", "triangle", "palette", "wheel")  # those that want paints far from each other


@dataclass(frozen=True)
class Begun:
    """A kind as it would be begun.

    Attributes
    ----------
    kind : Kind
    texts : dict from the names of options to what would be typed
    sheet : Sheet, its first page; None where it can not be begun with these paints
    about : str, how many mixes it has and how long it takes; or what it wants first
    """

    kind: Kind
    texts: dict[str, str]
    sheet: Sheet | None
    about: str


def texts_for(kind: str, names: Sequence[str]) -> dict[str, str]:
    """What would be typed to begin a kind with some paints.

    Parameters
    ----------
    kind : str, its key
    names : sequence of str, the paints at hand, two at least
    """
    write = SomePaints().write
    count = min(len(names), _FEW.get(kind, MOST_PAINTS))
    step = len(names) / count if kind in _SPREAD else 1.0
    chosen = [names[int(place * step)] for place in range(count)]
    if kind == "families":
        half = (min(len(names), 10) + 1) // 2
        return {"paints": write(names[:half]), "across": write(names[half : 2 * half] or names[:1])}
    if kind == "rows":
        pairs = list(zip(names[::2], names[1::2], strict=False))[:5]
        return {"rows": "; ".join(f"{quoted_name(one)}, {quoted_name(other)}: 6" for one, other in pairs)}
    if kind == "free":
        first, second = names[0], names[1]
        mixes = [(first,), (first, second), (second,), *((name,) for name in names[2:4])]
        return {"recipes": "; ".join(" + ".join(mix) for mix in mixes)}
    if kind == "keepers":
        return {}
    return {"paints": write(chosen)}


def beginning(
    names: Sequence[str], common: dict[str, str], aids: Aids, pace: float, dark: str = ""
) -> Generator[float, None, list[Begun]]:
    """Each kind as it would be begun; yields how far it is.

    Parameters
    ----------
    names : sequence of str, the paints at hand, two at least
    common : dict from the names of options to what would be typed for each kind, as the paper
    aids : Aids
    pace : float, the painter's own beside the usual
    dark : str, the paint that serves best as a dark, or an empty text
    """
    found = []
    for number, kind in enumerate(KINDS):
        yield number / len(KINDS)
        texts = {**common, **texts_for(kind.key, names), "title": title_for(kind, names)}
        if dark and kind.key == "palette":
            texts["extra"] = quoted_name(dark)
        try:
            plan = plan_of(kind.key, texts)
            sheets = lay_out(plan, aids)
        except CulmoError as error:
            found.append(Begun(kind, texts, None, _wants(kind, str(error))))
            continue
        cells = sum(len(sheet.cells) for sheet in sheets)
        count, time = trn("{n} cell", "{n} cells", cells), minutes_text(pace * _minutes(sheets))
        about = tr("{count}, {time}", count=count, time=time[:1].lower() + time[1:])
        found.append(Begun(kind, texts_of(plan), sheets[0], about))
    return found


def _minutes(sheets: Sequence[Sheet]) -> float:
    """About how long sheets take whose order of work is not looked for yet: each puddle once, and no waiting."""
    usual = Pace()
    puddles = sum(len({cell.recipe.full for cell in sheet.cells}) for sheet in sheets)
    cells = sum(len(sheet.cells) for sheet in sheets)
    return puddles * (usual.puddle_minutes + usual.rinse_minutes) + cells * usual.cell_minutes


def title_for(kind: Kind, names: Sequence[str]) -> str:
    """What a sheet is called that is begun so."""
    if kind.key == KINDS[0].key:
        return tr("Grid of {n}", n=min(len(names), MOST_PAINTS))
    return kind.title


def _wants(kind: Kind, why: str) -> str:
    """What must be there before a kind can be begun."""
    if kind.key == "keepers":
        return tr("Mark mixes as worth keeping first")
    return why[:1].upper() + why[1:]
