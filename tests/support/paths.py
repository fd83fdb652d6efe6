"""Walks the main paths of the window in a language, at a size, and prints what could be done where; it reads no word.

Run as `python -m support.paths LANGUAGE STUDY FOLDER [WIDTH HEIGHT TEXT]`, LANGUAGE being a code or "pseudo".
"""

import json
import sys
import traceback
from pathlib import Path

from PySide6.QtCore import QLocale, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu

from support.looking import Pseudo, cut_off, hear_drawn, pages, shown_texts, with_point

EIGHT = ["PY175", "PR188", "PV19", "PB29", "PB15:3", "PG18", "PY43", "PBr7"]


class Walk:
    """One walk: what each act could do in each place, what was cut, and what went wrong."""

    def __init__(self, window, comma=False):
        from culmo.desk.app import settle

        self.window, self._settle = window, settle
        self.states, self.cut, self.wrong = {}, {}, []
        self.pointed, self._drawn = (
            {},
            set() if comma else None,
        )  # numbers with a point where a comma is usual
        if comma:
            hear_drawn(self._drawn)
        sys.excepthook = lambda kind, error, trace: self.wrong.append(
            "".join(traceback.format_exception(kind, error, trace))[-800:]
        )

    def wait(self, count=40):
        for _ in range(2):
            self._settle(self.window, count)

    def look(self, place):
        """Open every menu, and write down which acts it offers."""
        held = QApplication.focusWidget()
        for entry in self.window.menuBar().actions():
            menu = entry.menu()
            assert isinstance(menu, QMenu)
            menu.popup(self.window.mapToGlobal(self.window.rect().center()))
            QApplication.processEvents()
            assert menu.isVisible()
            menu.close()
        self.window.activateWindow()  # without a desktop a menu leaves no window active
        QApplication.processEvents()
        if held is not None:
            held.setFocus()
        self.window.menus.refresh()
        self.states[place] = {
            name: [act.isEnabled(), act.isChecked()]
            for name, act in self.window.actions_by_id.items()
            if not name.startswith("language")
        }
        self.window.menus._hear_all()
        found = cut_off(self.window)
        if found:
            self.cut[place] = [str(entry) for entry in found]
        self.window.grab()
        if self._drawn is not None:
            pointed = with_point(self._drawn | shown_texts(self.window))
            self._drawn.clear()
            if pointed:
                self.pointed[place] = pointed

    def key(self, key, modifiers=Qt.KeyboardModifier.NoModifier):
        QTest.keyClick(QApplication.focusWidget() or self.window, key, modifiers)
        self.wait(30)

    def type(self, text):
        QTest.keyClicks(QApplication.focusWidget(), text)
        QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
        self.window.activateWindow()
        self.wait(20)


def begin_and_paint(walk):
    """From the first page to a painted cell, a picture read, and the mixes of it."""
    window, control = walk.window, Qt.KeyboardModifier.ControlModifier
    walk.look("first page")
    window.welcome_buttons[0].click()
    walk.wait()
    walk.look("no paints")
    for line in EIGHT:
        walk.type(line)
    walk.look("eight paints")
    walk.key(Qt.Key.Key_G, control)
    for _ in range(15):
        walk.wait(20)
    walk.look("kinds")
    walk.key(Qt.Key.Key_Return)
    walk.wait()
    walk.look("trying")
    walk.key(Qt.Key.Key_S, control)
    walk.look("kept")
    walk.key(Qt.Key.Key_3, control)
    walk.key(Qt.Key.Key_Space)
    walk.look("one painted")
    walk.key(Qt.Key.Key_Z, control)
    walk.look("taken back")
    cells = len(window.state.record.cells)
    return {"paints": len(window.session.paints), "cells": cells, "painted": len(window.state.painted)}


def look_round(walk, study):
    """Every page of the sample study."""
    window = walk.window
    window.session.unsaved.leave_out()
    window.open_path(Path(study))
    walk.wait()
    window.session.selection.select_sheet(1)
    walk.wait()
    for place in pages(window):
        walk.wait(20)
        walk.look(place)
    window.show_room(1)
    window.state.select("r02c01")
    window.plan.view.setFocus()
    walk.look("a cell selected")
    window.menus.run(next(entry for entry in window.menus.table if entry.id == "find like"))
    walk.wait()
    walk.look("like it")


def main(language, study, folder, width="1280", height="800", text="100"):
    from culmo import words

    if language == "pseudo":
        words._speech.catalogue = Pseudo()
    else:
        words.use(language, "," if language == "de" else ".")
        if language == "de":
            QLocale.setDefault(QLocale(QLocale.Language.German))  # as the system's own would be there
    from culmo.desk.app import make_app
    from culmo.desk.settings import Settings
    from culmo.desk.window import MainWindow

    make_app()
    settings = Settings.at(Path(folder) / f"{language}.ini")
    settings.text_size = int(text)
    window = MainWindow(settings)
    window.resize(int(width), int(height))
    window.show()
    walk = Walk(window, comma=language == "de")
    ended = begin_and_paint(walk)
    look_round(walk, study)
    if folder and Path(folder, "shots").is_dir():
        window.grab().save(str(Path(folder, "shots", f"{language}-{width}-{text}.png")))
    size = window.size().toTuple()
    window.session.unsaved.leave_out()
    window.close()
    told = {
        "states": walk.states,
        "ended": ended,
        "cut": walk.cut,
        "wrong": walk.wrong,
        "size": size,
        "pointed": walk.pointed,
    }
    print(json.dumps(told))
    return 0


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
