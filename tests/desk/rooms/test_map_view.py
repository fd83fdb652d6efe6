"""The map by itself: what lies under the pointer, and what zooming and dragging do to it."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QPalette, QWheelEvent
from PySide6.QtWidgets import QApplication

from culmo.core.colour.srgb import srgb_from_lab
from culmo.core.paint.recipe import mix
from culmo.desk.rooms.weigh.map_model import Points
from culmo.desk.rooms.weigh.map_view import MapView
from culmo.desk.theme import DAY, NIGHT, apply_theme

HUES = np.radians(np.arange(0, 360, 30))


def points(lab, recorded=None, pairs=()):
    """Points at these colours."""
    lab = np.asarray(lab, dtype=float)
    recorded = np.zeros(len(lab), bool) if recorded is None else np.asarray(recorded)
    rgb = (srgb_from_lab(lab).clip(0, 1) * 255).astype(np.uint8)
    pairs = np.array(pairs, dtype=int).reshape(-1, 2)
    return Points(
        lab, rgb, recorded, np.zeros(len(lab), bool), pairs, lambda i: mix([f"P{i}"]), lambda i: f"from {i}"
    )


def ring(L=55.0, chroma=60.0):
    """Twelve colours round the circle."""
    return np.column_stack([np.full(12, L), chroma * np.cos(HUES), chroma * np.sin(HUES)])


def make_map(lab=None, **more):
    """A map on view."""
    view = MapView()
    view.resize(800, 560)
    view.show_points(points(ring() if lab is None else lab, **more))
    view.show()
    return view


@pytest.fixture
def chart(qtbot):
    """A map of twelve colours."""
    view = make_map()
    qtbot.addWidget(view)
    return view


def wheel(view, at, clicks):
    """Turn the wheel."""
    event = QWheelEvent(
        QPointF(at), QPointF(view.mapToGlobal(at)), QPoint(), QPoint(0, 120 * clicks), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(view, event)


@given(
    st.tuples(st.integers(60, 540), st.integers(60, 500)),
    st.lists(st.integers(-3, 3), min_size=1, max_size=6),
    st.integers(0, 11),
)
def test_what_is_under_the_pointer_stays_there_while_zooming(qapp, at, turns, place):
    view = make_map()
    view.middle = QPointF(*ring()[place, 1:]) * 0.3
    at = QPoint(*at)

    def colour_under():
        plane, scale = view.plane(), view.scale()
        x = view.middle.x() + (at.x() - plane.center().x()) / scale
        return x, view.middle.y() - (at.y() - plane.center().y()) / scale

    before = colour_under()
    for turn in turns:
        wheel(view, at, turn)
        assert 0.8 <= view.zoom <= 40.0
    assert np.allclose(colour_under(), before, atol=1e-6)


@given(st.integers(0, 11), st.floats(0.8, 6.0), st.tuples(st.floats(-40, 40), st.floats(-40, 40)))
def test_a_colour_is_found_where_it_is_drawn(qapp, place, zoom, middle):
    view = make_map()
    view.zoom, view.middle = zoom, QPointF(*middle)
    where = view.place_of(place)
    if view.plane().contains(where):
        assert view.at(where) == place
    x, y = view.to_strip(view.points.lab)[place]
    nearest = view.at(QPointF(x, y))
    assert nearest >= 0
    # beside it hue is not told apart: whoever is found is as light and as vivid
    assert np.allclose(view.to_strip(view.points.lab)[nearest], (x, y), atol=1e-6)


def test_paint_goes_before_pencil_where_both_are_near(qtbot):
    lab = [[50.0, 20.0, 20.0], [50.0, 20.4, 20.0]]
    view = make_map(lab, recorded=[False, True], pairs=[(0, 1)])
    qtbot.addWidget(view)
    assert view.at(view.place_of(0)) == 1
    assert view.at(view.place_of(0) - QPointF(60, 0)) == -1


def test_arrow_keys_reach_every_colour_and_never_get_lost(chart, qtbot):
    seen = []
    chart.selected.connect(seen.append)
    reached: set[int] = set()
    ways = (
        (Qt.Key.Key_Right, 1, 0),
        (Qt.Key.Key_Left, -1, 0),
        (Qt.Key.Key_Up, 0, -1),
        (Qt.Key.Key_Down, 0, 1),
    )
    qtbot.keyClick(chart, Qt.Key.Key_Right)  # the first press takes the one nearest to grey
    todo = [chart.current]
    while todo:
        start = todo.pop()
        if start in reached:
            continue
        reached.add(start)
        for key, dx, dy in ways:
            chart.select(start)
            qtbot.keyClick(chart, key)
            step = chart.place_of(chart.current) - chart.place_of(start)
            assert chart.current == start or step.x() * dx + step.y() * dy > 0
            todo.append(chart.current)
    assert reached == set(range(12))
    assert set(seen) == reached


def test_a_click_selects_a_drag_moves_and_a_line_drawn_round_gathers(chart, qtbot):
    chosen, gathered = [], []
    chart.selected.connect(chosen.append)
    chart.region.connect(gathered.append)
    qtbot.mouseClick(chart, Qt.MouseButton.LeftButton, pos=chart.place_of(3).toPoint())
    assert chosen == [3]
    qtbot.mouseClick(chart, Qt.MouseButton.LeftButton, pos=QPoint(3, 3))
    assert chosen == [3] and chart.current == 3  # beside all of them nothing changes
    centre = chart.place_of(0).toPoint()
    qtbot.mousePress(chart, Qt.MouseButton.LeftButton, pos=QPoint(20, 20))
    qtbot.mouseMove(chart, QPoint(60, 50))
    qtbot.mouseRelease(chart, Qt.MouseButton.LeftButton, pos=QPoint(60, 50))
    moved = chart.place_of(0).toPoint() - centre
    assert (moved - QPoint(40, 30)).manhattanLength() <= 2
    assert not gathered
    corners = ((-25, -25), (25, -25), (25, 25), (-25, 25), (-25, -25))
    box = [chart.place_of(0).toPoint() + QPoint(dx, dy) for dx, dy in corners]
    qtbot.mousePress(chart, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, box[0])
    for corner in box[1:]:
        qtbot.mouseMove(chart, corner)
    qtbot.mouseRelease(chart, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, box[-1])
    assert gathered == [[0]]


def test_a_tip_says_the_mix_and_where_it_is_from(chart, qtbot):
    def tip_at(where):
        # until the window is on view a pointer that moves is not heard of
        qtbot.mouseMove(chart, where + QPoint(1, 0))
        qtbot.mouseMove(chart, where)
        return chart.toolTip()

    qtbot.waitUntil(lambda: tip_at(chart.place_of(5).toPoint()) == "P5\nfrom 5")
    qtbot.waitUntil(lambda: tip_at(QPoint(2, 2)) == "")


def test_keys_zoom_and_bring_back_the_whole(chart, qtbot):
    for key, holds in (
        (Qt.Key.Key_Plus, lambda z: z > 1),
        (Qt.Key.Key_Minus, lambda z: z == pytest.approx(1.0)),
    ):
        qtbot.keyClick(chart, key)
        assert holds(chart.zoom)
    for _ in range(60):
        qtbot.keyClick(chart, Qt.Key.Key_Plus)
    assert chart.zoom == 40.0
    for _ in range(60):
        qtbot.keyClick(chart, Qt.Key.Key_Minus)
    assert chart.zoom == 0.8
    qtbot.keyClick(chart, Qt.Key.Key_0)
    assert (chart.zoom, chart.middle) == (1.0, QPointF(0.0, 0.0))


def test_an_empty_map_says_why_and_takes_every_key_and_click(chart, qtbot):
    chart.empty_words = "Nothing was read yet."
    blank = make_map()
    qtbot.addWidget(blank)
    for nothing in (points(np.empty((0, 3))), None):
        chart.show_points(nothing)
        blank.show_points(nothing)
        assert chart.grab().toImage() != blank.grab().toImage()  # the words are on it
        for key in (Qt.Key.Key_Left, Qt.Key.Key_Plus, Qt.Key.Key_0):
            qtbot.keyClick(chart, key)
        qtbot.mouseClick(chart, Qt.MouseButton.LeftButton, pos=QPoint(200, 200))
        assert chart.current == -1


@pytest.fixture
def night(qapp):
    """The night scheme for a test, and day after it."""
    apply_theme(qapp, NIGHT)
    yield
    apply_theme(qapp, DAY)


def test_what_is_as_dark_as_the_night_has_an_edge(night, qtbot):
    view = make_map([[17.0, 0.5, 0.0], [17.0, 40.0, 0.0]], recorded=[False, True])
    qtbot.addWidget(view)
    ground = view.palette().color(QPalette.ColorRole.Window).lightness()
    picture = view.grab().toImage()
    for place in range(2):
        where = view.place_of(place).toPoint()
        around = [picture.pixelColor(where + QPoint(dx, dy)) for dx in range(-7, 8) for dy in range(-7, 8)]
        assert max(colour.lightness() for colour in around) > ground + 60


def test_the_rings_numbers_can_be_read_over_many_colours(qtbot):
    rng = np.random.default_rng(0)
    lab = np.column_stack([rng.uniform(20, 90, 9000), rng.normal(0, 30, 9000), rng.normal(0, 30, 9000)])
    view = make_map(lab)
    qtbot.addWidget(view)
    picture = view.grab().toImage()
    x, y = view.to_pixels(np.array([[50.0, 0.0, 20.0]]))[0]
    rim = [
        picture.pixelColor(round(x) + dx, round(y) - 8 + dy) for dx in range(-10, 11) for dy in range(-6, 7)
    ]
    grey = [colour for colour in rim if colour.red() == colour.green() == colour.blue()]
    assert len(grey) > 0.35 * len(rim)
    assert (
        min(colour.lightness() for colour in grey) < 130 and max(colour.lightness() for colour in grey) > 230
    )
