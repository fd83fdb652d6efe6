"""The picture of the first page: a chart, a wheel and strokes of the sample study, drawn by the program itself.

Run as `QT_QPA_PLATFORM=offscreen .venv/bin/python -m tools.first_page`; the result is committed, since drawing it takes
longer than a window may take to come up.
"""

import shutil
import sys
import tempfile
from pathlib import Path

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from culmo.demo.sample import put_sample
from culmo.desk.app import make_app, settle
from culmo.desk.drawing.pencil import draw_paint
from culmo.desk.drawing.seen import see
from culmo.desk.drawing.sheet import SheetStyle, draw_sheet, sheet_transform
from culmo.desk.settings import Settings
from culmo.desk.theme import PAPER
from culmo.desk.welcome import PICTURE, PICTURE_SIZE
from culmo.desk.window import MainWindow
from culmo.study.records import sheet_titles

_SCALE = 2
_STROKES = ("Lemon", "Scarlet", "Rose", "Ultramarine", "Viridian", "Burnt sienna")
_EDGE = QColor(150, 150, 150)


def _paper(painter: QPainter, box: QRectF) -> None:
    painter.fillRect(box.translated(3, 4), QColor(0, 0, 0, 40))
    painter.fillRect(box, PAPER)
    painter.setPen(QPen(_EDGE, 1.0))
    painter.drawRect(box)


def main() -> int:
    """Draw it."""
    make_app()
    folder = Path(tempfile.mkdtemp())
    window = MainWindow(Settings.at(folder / "s.ini"))
    window.open_path(put_sample(folder))
    settle(window, 100)
    session = window.session
    titles = {title: sheet_id for sheet_id, title in sheet_titles(session.file)}
    looks = session.learning.looks
    wide, high = PICTURE_SIZE
    image = QImage(wide * _SCALE, high * _SCALE, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
    painter.scale(_SCALE, _SCALE)
    for title, box, square in (
        ("First eight, wing cases", QRectF(4, 4, 388, 264), False),
        ("Six anchors, twelve places", QRectF(356, 126, 216, 216), True),
    ):
        seen = see(session.file, titles[title], session.learning.estimate)
        sheet = seen.record.sheet
        _paper(painter, box)
        painter.save()
        painter.setClipRect(box.adjusted(1, 1, -1, -1))
        # a wheel stands on as much of its paper as is square
        spread = box.height() * sheet.paper.width_mm / sheet.paper.height_mm if square else box.width()
        room = QRectF(box.center().x() - spread / 2, box.top(), spread, box.height())
        transform, scale = sheet_transform(sheet, room)
        painter.setTransform(transform, True)
        style = SheetStyle(show="predicted", looks=seen.looks, pixels_per_mm=scale * _SCALE)
        draw_sheet(painter, sheet, looks, style)
        painter.restore()
    for place, name in enumerate(_STROKES):
        box = QRectF(8 + place % 3 * 104, 284 + place // 3 * 34, 96, 28)
        painter.fillRect(box, PAPER)
        draw_paint(painter, looks, name, box.adjusted(2, 2, -2, -2), _SCALE, _SCALE)
        painter.setPen(QPen(_EDGE, 1.0))
        painter.drawRect(box)
    painter.end()
    PICTURE.parent.mkdir(parents=True, exist_ok=True)
    image.save(str(PICTURE))
    window.close()
    shutil.rmtree(folder)
    print(PICTURE, PICTURE.stat().st_size)
    return 0


if __name__ == "__main__":
    sys.exit(main())
