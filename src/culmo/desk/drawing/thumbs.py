"""Small pictures of sheets and of kept pictures, drawn once and kept while nothing changes."""

from collections.abc import Callable
from enum import StrEnum

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF

from culmo.core.chart.sheet import Sheet
from culmo.desk.drawing.cell_look import CellLook
from culmo.desk.drawing.looks import Looks, qcolor
from culmo.desk.drawing.seen import Seen, see
from culmo.desk.session import Session
from culmo.desk.theme import PAPER
from culmo.errors import CulmoError


class ThumbShows(StrEnum):
    """How much of a sheet its small picture shows."""

    PLANNED = "planned"
    PROGRESS = "progress"
    ALL = "all"


_KEEP = 300
_EDGE, _PENCIL, _RIM = QColor(60, 60, 60), QColor(176, 176, 176), QColor(150, 150, 150)


class Thumbs:
    """Small pictures of an open study.

    Parameters
    ----------
    session : Session
    """

    def __init__(self, session: Session) -> None:
        self.session = session
        self._images: dict[tuple[object, ...], QImage | None] = {}
        for signal in (session.opened, session.changed, session.learning.learned):
            signal.connect(self._images.clear)

    def sheet(self, sheet_id: int, show: str, width: int, height: int) -> QImage | None:
        """A sheet fitted into pixels; None when it is gone.

        Parameters
        ----------
        sheet_id : int
        show : str, "planned" (the ruling), "progress" (washes where the brush has been) or "all"
        width, height : int, pixels at most
        """

        def draw() -> QImage:
            seen = see(
                self.session.file,
                sheet_id,
                self.session.learning.estimate if show != ThumbShows.PLANNED else None,
            )
            return small_sheet(seen, self.session.learning.looks, show, width, height)

        return self._kept(("sheet", sheet_id, show, width, height), draw)

    def photo(self, photo_id: int, side: int) -> QImage | None:
        """A kept picture; None when its file is gone or damaged."""

        def draw() -> QImage:
            from culmo.study.photo_files import picture_bytes

            row = self.session.file.row("photos", photo_id)
            return image_of(picture_bytes(self.session.file, row), row["name"] or "picture", side)

        return self._kept(("photo", photo_id, side), draw)

    def _kept(self, key: tuple[object, ...], draw: Callable[[], QImage]) -> QImage | None:
        if key not in self._images:
            if len(self._images) > _KEEP:
                self._images.clear()
            try:
                self._images[key] = draw()
            except CulmoError:
                self._images[key] = None
        return self._images[key]


def image_of(data: bytes, name: str, side: int) -> QImage:
    """A picture's file as a small image.

    Raises
    ------
    CulmoError
        when it is no picture, too large or damaged
    """
    from culmo.study.pictures import thumbnail  # pictures are decoded by what not every study needs

    pixels = thumbnail(data, name, side)
    height, width = pixels.shape[:2]
    return QImage(pixels.tobytes(), width, height, 3 * width, QImage.Format.Format_RGB888).copy()


def small_sheet(seen: Seen, looks: Looks | None, show: str, width: int, height: int) -> QImage:
    """A sheet on its paper, fitted into pixels: plain colour and no writing."""
    sheet: Sheet = seen.record.sheet
    scale = min(width / sheet.paper.width_mm, height / sheet.paper.height_mm)
    wide, high = (max(1, round(mm * scale)) for mm in (sheet.paper.width_mm, sheet.paper.height_mm))
    image = QImage(wide, high, QImage.Format.Format_RGB32)
    image.fill(PAPER)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for cell in sheet.cells:
        look = seen.looks.get(cell.id, CellLook())
        shape = QPolygonF([QPointF(x * scale, y * scale) for x, y in cell.outline_mm])
        colour = None
        if show != ThumbShows.PLANNED and look.recorded is not None:
            colour = qcolor(look.recorded)
        elif (
            look.predicted
            and looks is not None
            and (show == ThumbShows.ALL or (show == ThumbShows.PROGRESS and look.painted))
        ):
            colour = looks.colour(cell.recipe, cell.ground)
        done = look.recorded is not None or look.painted
        painter.setPen(QPen(_EDGE if done and show != ThumbShows.PLANNED else _PENCIL, 0.6))
        painter.setBrush(colour if colour is not None else Qt.BrushStyle.NoBrush)
        painter.drawPolygon(shape)
    painter.setPen(QPen(_RIM, 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(QRectF(0.5, 0.5, image.width() - 1, image.height() - 1))
    painter.end()
    return image
