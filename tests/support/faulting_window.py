"""The real window with a fault at one of its writes: what it acknowledged is in the file afterwards.

Run as `python -m support.faulting_window HOW AT FOLDER` with `faults.c` under it; AT 0 counts. The window does notes, a
reading, an undo and types a draft, and says each act that is saved.
"""

import os
import sys
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


def main(folder: str) -> int:
    """Work in the window; each act that it calls saved is said."""
    from PySide6.QtWidgets import QApplication

    from culmo.desk.app import make_app, settle
    from culmo.desk.settings import Settings
    from culmo.desk.window import MainWindow
    from culmo.study import acts, note_acts

    app = make_app()
    window = MainWindow(Settings.at(Path(folder).with_name("s.ini")))
    window.show()
    if not window.open_path(Path(folder) / "one.culmo"):
        print("refused", window.notice.words.text(), flush=True)
        return 0
    settle(window, 1)
    session = window.session
    for number in range(3):
        if session.do(note_acts.add_note(session.file, f"note {number}")):
            print("saved", f"note {number}", flush=True)
    session.do(acts.read_cell(session.file, 1, 3, (40.0, 1.0, 2.0)))
    window.show_room(5)
    window.daybook.foot.note.setText("typed")
    session.safe.keep_drafts()
    session.safe.back_up()
    QApplication.processEvents()
    session.close(keep_typed=True)
    print("closed", flush=True)
    app.quit()
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1]))
