"""What a sheet is planned with: the paints at hand, what is known of them, the papers, the painter's own pace."""

from culmo.core.chart.aids import Aids, Knowledge
from culmo.core.chart.darks import likeliest_dark
from culmo.core.chart.knowledge import knowledge_of
from culmo.core.chart.lengths import LengthUnit
from culmo.core.chart.options import SomePaints
from culmo.core.chart.papers import Paper
from culmo.core.chart.plans import Plan
from culmo.core.chart.washes import Traits
from culmo.core.paint.recipe import mix
from culmo.desk.drawing.sheet import drawn_width_mm
from culmo.desk.rooms.plan.model import own_pace, texts_of
from culmo.desk.session import Session
from culmo.desk.settings import Settings
from culmo.study import records
from culmo.study.traits import traits_of

_OF_ITS_PAINTS = {"title", "paints", "across", "recipes", "rows", "extra", "centre"}


def aids_of(session: Session) -> Aids:
    """What a sheet is laid out with: the typeface, what is known of the paints, their codes, the keepers."""
    estimate = session.learning.estimate
    return Aids(
        drawn_width_mm,
        knowledge_of(estimate) if estimate is not None else Knowledge(),
        {paint.name.casefold(): paint.codes for paint in session.paints},
        records.kept_mixes(session.file),
        records.paint_numbers(session.file),
    )


def pace_of(session: Session) -> float:
    """The painter's own pace, beside the usual one."""
    return own_pace(session.study) if session.study is not None else 1.0


def traits_in(session: Session) -> Traits:
    """What the paints are like, to work from light to dark and from clean to staining."""
    return traits_of(session.paints, session.learning.labels, session.learning.estimate)


def names_at_hand(session: Session) -> list[str]:
    """The paints that a new sheet begins with: those in hand, or all of the box."""
    in_hand = list(session.selection.in_hand)
    if len(in_hand) > 1:
        return in_hand
    names = [paint.name for paint in session.selection.paints_in_use() if paint.status != "wished"]
    return names if len(names) > 1 else [paint.name for paint in session.paints]


def grid_at_hand(session: Session) -> list[str]:
    """The paints of a grid that is begun at once: those in hand, or the first dozen of the box."""
    in_hand = session.selection.in_hand
    return list(in_hand) if len(in_hand) > 1 else [paint.name for paint in session.paints][:12]


def like_texts(session: Session, plan: Plan) -> dict[str, str]:
    """The wishes of a plan as they would be typed, for the paints at hand instead of its own."""
    wishes = {key: text for key, text in texts_of(plan).items() if key not in _OF_ITS_PAINTS}
    return {**wishes, "paints": SomePaints().write(names_at_hand(session))}


def dark_at_hand(session: Session, sort: str) -> str:
    """The paint that serves best as a dark; empty where none is known.

    Parameters
    ----------
    session : Session
    sort : str, "cool", "neutral", "warm" or "deepest"
    """
    known = [paint.name for paint in session.paints if session.learning.knows(mix([paint.name]))]
    found = session.learning.predict([mix([name]) for name in known]) if known else None
    return "" if found is None else known[likeliest_dark(found.lab, sort)]


def unit_in_use(session: Session, settings: Settings) -> str:
    """The unit of the sheet that was planned last, else the one that was used last on this machine."""
    unit = records.latest_settings(session.file).get("unit", settings.unit)
    return LengthUnit.INCH if unit == LengthUnit.INCH else LengthUnit.MM


def usual_texts(session: Session, settings: Settings) -> dict[str, str]:
    """What is typed for every new sheet: the painter's own paper, and the unit."""
    owned = session.papers
    return {"unit": unit_in_use(session, settings), **({"paper": owned[0].paper.name} if owned else {})}


def papers_of(session: Session) -> list[Paper]:
    """The papers that the painter named."""
    return [own.paper for own in session.papers]
