"""Palettes and mixes that were kept: keeping a verdict, showing them, letting go of them."""

from collections.abc import Sequence

from PySide6.QtWidgets import QWidget

from culmo.desk.rooms.weigh.fewer_dialogs import KeepDialog
from culmo.desk.rooms.weigh.fewer_model import compared, number_word, share_text
from culmo.desk.rooms.weigh.palette_slip import KeptSlip
from culmo.desk.rooms.weigh.weighing import Weighing
from culmo.desk.session import Session
from culmo.study import palette_acts
from culmo.study.mix_acts import MixWorth, let_go_of, mixes_worth_keeping
from culmo.study.palette_acts import KeptPalette, kept_palettes
from culmo.words import tr


class KeptActs:
    """The acts of what was kept.

    Parameters
    ----------
    session : Session
    weighing : Weighing
    slip : KeptSlip, on which they stand
    parent : QWidget, over which is asked
    """

    def __init__(self, session: Session, weighing: Weighing, slip: KeptSlip, parent: QWidget) -> None:
        self.session, self.weighing, self.slip, self.parent = session, weighing, slip, parent
        slip.let_go.connect(self.let_go)
        slip.mix_let_go.connect(self.let_go_of_mix)

    def show(self) -> None:
        """Show all of them, and how the palettes do now."""
        study, weighing = self.session.study, self.weighing
        rows: list[tuple[KeptPalette, str]] = []
        for palette in kept_palettes(study) if study is not None else []:
            now = ""
            if weighing.reach is not None and weighing.mixes is not None:
                now = compared(palette, weighing.places(palette.paints), weighing.reach)
            rows.append((palette, now))
        self.slip.show_kept(rows, mixes_worth_keeping(study) if study is not None else [])

    def keep(self, paints: Sequence[str]) -> bool:
        """Keep a palette, with a reason; says whether it was.

        Parameters
        ----------
        paints : sequence of str
        """
        weighing = self.weighing
        if not paints or weighing.reach is None:
            return False
        places = weighing.places(paints)
        share = weighing.reach.value.of(places)
        words = tr("reaches {share_text}", share_text=share_text(weighing.reach, places, share))
        what = tr("{what} of the box", what=number_word(len(paints)).capitalize())
        dialog, kept = KeepDialog(self.parent, list(paints), what, words), False
        if dialog.exec():
            facts = {
                "share": round(share, 5), "list": weighing.list, "of": list(weighing.names),
                "measure": weighing.measure.words,
            }  # fmt: skip
            with self.session.guarded():
                command = palette_acts.keep_palette(
                    self.session.file, dialog.name.text(), paints, dialog.purpose.text(),
                    dialog.reason.toPlainText(), facts,
                )  # fmt: skip
                kept = self.session.do(command)
        dialog.deleteLater()
        return kept

    def let_go(self, palette_id: int) -> None:
        """A kept palette goes; the Daybook still tells of it."""
        with self.session.guarded():
            self.session.do(palette_acts.drop_palette(self.session.file, palette_id))

    def let_go_of_mix(self, worth: MixWorth) -> None:
        """A mix is no longer among those worth keeping."""
        with self.session.guarded():
            self.session.do(let_go_of(self.session.file, worth))
            self.show()
