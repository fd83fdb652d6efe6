"""Lists of wanted colours: found in a picture, read from a table, edited by hand."""

from pathlib import Path

import numpy as np
from PySide6.QtWidgets import QFileDialog, QWidget

from culmo.core.capture.photo import Photo
from culmo.core.colour.cielab import lab_from_xyz
from culmo.core.colour.spectral import Array
from culmo.desk.picture_view import PICTURES
from culmo.desk.rooms.weigh.fewer_dialogs import WantedDialog
from culmo.desk.rooms.weigh.weighing import Weighing
from culmo.desk.session import Session
from culmo.study import palette_acts
from culmo.study.colour_files import read_colours
from culmo.study.formats import Holds, open_filter
from culmo.study.palette_acts import Wanted
from culmo.words import tr

_SIDE_PX = 320  # a picture is looked at for its colours at this size


class WantedActs:
    """The acts of lists of wanted colours; what is kept becomes what is to be reached.

    Parameters
    ----------
    session : Session
    weighing : Weighing
    parent : QWidget, over which is asked
    """

    def __init__(self, session: Session, weighing: Weighing, parent: QWidget) -> None:
        self.session, self.weighing, self.parent = session, weighing, parent

    def choose_picture(self) -> None:
        """Wanted colours from a reference picture."""
        name, _ = QFileDialog.getOpenFileName(self.parent, tr("A reference picture"), "", PICTURES)
        if name:
            self.take_picture(Path(name))

    def take_picture(self, path: Path) -> None:
        """Wanted colours from a picture file, found by clustering and edited by hand."""
        from culmo.study.pictures import open_photo

        with self.session.guarded():
            pixels = colours_of_photo(open_photo(path))
            self._edit(
                WantedDialog(self.parent, tr("Colours of the picture"), path.stem, [], pixels, path), []
            )

    def choose_file(self) -> None:
        """Wanted colours from a table."""
        name, _ = QFileDialog.getOpenFileName(
            self.parent, tr("Wanted colours"), "", open_filter(tr("Colours"), Holds.COLOURS)
        )
        if name:
            self.take_file(Path(name))

    def take_file(self, path: Path) -> None:
        """Wanted colours from a table file."""
        with self.session.guarded():
            good, bad = read_colours(path)
            if bad:
                self.session.failed.emit(
                    f"{path.name}: " + "; ".join(bad[:3]) + "; " + tr("{n} colours can be taken", n=len(good))
                )
            self._edit(WantedDialog(self.parent, tr("Wanted colours"), path.stem, good), [])

    def edit_list(self) -> None:
        """Change the list in use."""
        name = self.weighing.list
        if not name:
            return
        before = self.weighing.wanted()
        dialog = WantedDialog(self.parent, tr("Wanted colours"), name, before)
        dialog.name.setEnabled(False)
        self._edit(dialog, before)

    def _edit(self, dialog: WantedDialog, before: list[Wanted]) -> None:
        """Let the painter edit a list, and keep what comes of it."""
        if dialog.exec():
            name = dialog.name.text().strip()
            with self.session.guarded():
                ids = [colour.id for colour in before]
                if self.session.do(palette_acts.set_wanted(self.session.file, name, dialog.colours(), ids)):
                    self.weighing.set_list(name)
        dialog.deleteLater()


def colours_of_photo(photo: Photo) -> Array:
    """The colours of a picture in its own colour space, thinned evenly, (m, 3) CIELAB."""
    step = max(1, max(photo.pixels.shape[:2]) // _SIDE_PX)
    levels = photo.pixels[::step, ::step].reshape(-1, 3)
    linear = np.stack([photo.curves[channel][levels[:, channel]] for channel in range(3)], axis=1)
    return np.asarray(lab_from_xyz(linear @ photo.to_xyz.T))
