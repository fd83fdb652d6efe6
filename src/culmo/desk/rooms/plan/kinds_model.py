"""The kinds of sheet as a painter would begin each with the paints at hand."""

from collections.abc import Generator, Sequence
from dataclasses import dataclass

from culmo.core.chart.aids import Aids
from culmo.core.chart.kind import Kind
from culmo.core.chart.kinds import KINDS
from culmo.core.chart.options import OnePaint, quoted_name
from culmo.core.chart.plans import Plan, lay_out, plan_of
from culmo.core.chart.sheet import Sheet
from culmo.core.chart.washes import Pace
from culmo.desk.rooms.plan.model import minutes_text, texts_of
from culmo.errors import CulmoError
from culmo.words import capital, tr, trn


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
        texts = {**common, **kind.begun_with(names), "title": title_for(kind, names)}
        try:
            plan = plan_of(kind.key, texts)
            if dark and _asks_for_a_dark(plan):
                plan = plan_of(kind.key, {**texts, "extra": quoted_name(dark)})
            sheets = lay_out(plan, aids)
        except CulmoError as error:
            found.append(Begun(kind, texts, None, capital(str(error))))
            continue
        cells = sum(len(sheet.cells) for sheet in sheets)
        count, time = trn("{n} cell", "{n} cells", cells), minutes_text(pace * _minutes(sheets))
        about = tr("{count}, {time}", count=count, time=time[:1].lower() + time[1:])
        found.append(Begun(kind, texts_of(plan), sheets[0], about))
    return found


def _asks_for_a_dark(plan: Plan) -> bool:
    """Whether a plan wants a dark paint that is not named yet."""
    extra = plan.kind.options.described().get("extra")
    named = "extra" in plan.kind.concerned(plan.options)
    return extra is not None and isinstance(extra.form, OnePaint) and extra.form.dark and named


def _minutes(sheets: Sequence[Sheet]) -> float:
    """About how long sheets take whose order of work is not looked for yet: each puddle once, and no waiting."""
    usual = Pace()
    puddles = sum(len({cell.recipe.full for cell in sheet.cells}) for sheet in sheets)
    cells = sum(len(sheet.cells) for sheet in sheets)
    return puddles * (usual.puddle_minutes + usual.rinse_minutes) + cells * usual.cell_minutes


def title_for(kind: Kind, names: Sequence[str]) -> str:
    """What a sheet is called that is begun so."""
    if kind.key == KINDS[0].key:
        return tr("Grid of {n}", n=min(len(names), kind.few))
    return kind.title
