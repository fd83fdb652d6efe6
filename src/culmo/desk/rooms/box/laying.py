"""How paints come to lie in the wells of a box."""

import numpy as np

from culmo.desk.rooms.box.box_drawing import Spot
from culmo.desk.session import Session
from culmo.study import box_acts
from culmo.study.records import Paint
from culmo.words import tr


def paint_called(session: Session, name: str) -> Paint | None:
    """The paint of a name."""
    return next((paint for paint in session.paints if paint.name == name), None)


def lay_new(session: Session, paint: Paint | None, spot: Spot | None) -> None:
    """A paint typed while an empty well is selected, or with a free well left, lies in the box at once."""
    box = session.selection.box
    if box is None or paint is None or paint.status == "wished":
        return
    free = [place for place in range(box.shape.count) if place not in box.paints]
    place = spot.place if spot is not None and spot.place in free else (free[0] if free else -1)
    if place >= 0:
        paints = {**box.paints, place: paint.id}
        session.do(
            box_acts.lay_wells(session.file, box.id, paints, tr("Lay {name} in a well", name=paint.name))
        )


def carry(session: Session, start: object, end: object) -> str:
    """A paint was carried from one spot to another; gives its name, or an empty text where there was none."""
    box = session.selection.box
    assert isinstance(start, Spot) and isinstance(end, Spot)
    if box is None or start.paint_id is None:
        return ""
    study = session.file
    name = next(paint.name for paint in session.paints if paint.id == start.paint_id)
    with session.guarded():
        if start.place >= 0 and end.place >= 0:
            session.do(box_acts.move_paint(study, box.id, start.place, end.place))
        elif start.place >= 0:
            paints = {place: paint for place, paint in box.paints.items() if place != start.place}
            session.do(
                box_acts.lay_wells(study, box.id, paints, tr("Take {name} out of its well", name=name))
            )
        elif end.place >= 0:
            paints = {**box.paints, end.place: start.paint_id}
            session.do(box_acts.lay_wells(study, box.id, paints, tr("Lay {name} in a well", name=name)))
    return name


def arrange_by(session: Session, order: str) -> None:
    """Lay the box's paints in an order; empty wells come last."""
    box, estimate = session.selection.box, session.learning.estimate
    if box is None or estimate is None:
        return
    from culmo.core.palette.arrange import arrange
    from culmo.core.palette.mixer import PAIR_WASHES, mixer_of

    in_use = session.selection.paints_in_use()
    paints = [paint for paint in in_use if paint.name.casefold() in estimate.index]
    mixer = mixer_of(estimate).only([paint.name for paint in paints])
    places = arrange(order, mixer.lab(np.eye(len(paints)), PAIR_WASHES))
    laid = {place: paints[i].id for place, i in enumerate(places)}
    rest = [paint_id for place, paint_id in sorted(box.paints.items()) if paint_id not in laid.values()]
    laid.update({len(laid) + i: paint_id for i, paint_id in enumerate(rest)})
    session.do(
        box_acts.lay_wells(
            session.file,
            box.id,
            laid,
            tr("Arrange {name} by {order}", name=box.name, order=tr(order)),
        )
    )
    session.told.emit(tr("Arranged by {order}; Ctrl+Z brings back the order of before", order=tr(order)))
