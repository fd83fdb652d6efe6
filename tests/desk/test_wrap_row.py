"""Rows that go on below: what was asked once is asked again when something in them changes."""

import pytest
from PySide6.QtWidgets import QLabel, QWidget

from culmo.desk.wrap_row import TwoOnALine, WrapRow


class Asked(QLabel):
    """A label that counts how often it is asked what it would like."""

    def __init__(self, text: str) -> None:
        super().__init__(text)
        self.times = 0

    def sizeHint(self):
        self.times += 1
        return super().sizeHint()


@pytest.fixture
def row(qapp):
    page = QWidget()
    layout = WrapRow(4)
    page.setLayout(layout)
    labels = [Asked("Ochre") for _ in range(4)]
    for label in labels:
        layout.addWidget(label)
    page.show()
    qapp.processEvents()
    yield page, layout, labels
    page.close()


def test_a_row_asks_its_things_once_however_often_it_is_asked(row):
    _, layout, labels = row
    layout.heightForWidth(200)  # what Qt itself keeps is kept now
    before = [label.times for label in labels]
    heights = {layout.heightForWidth(width) for width in range(20, 400)}
    assert len(heights) == 3  # four on a line, three or two, one
    assert [label.times for label in labels] == before


def test_a_longer_word_makes_its_row_wider_and_begins_another_line(qapp, row):
    _, layout, labels = row
    one_line, wide = layout.one_line(), layout.one_line() + 5
    low = layout.heightForWidth(wide)
    labels[1].setText("Ultramarine, the darker of the two")
    qapp.processEvents()
    assert layout.one_line() > one_line + 50
    assert layout.heightForWidth(wide) > low


def test_hidden_shown_taken_and_added_things_are_noticed(qapp, row):
    _, layout, labels = row
    whole = layout.one_line()
    labels[0].hide()
    qapp.processEvents()
    assert layout.one_line() < whole
    labels[0].show()
    qapp.processEvents()
    assert layout.one_line() == whole
    layout.takeAt(0)
    assert layout.one_line() < whole
    layout.addWidget(labels[0])
    assert layout.one_line() == whole


def test_the_second_of_two_goes_below_when_its_words_grow(qapp):
    page = QWidget()
    first, second = QLabel("Title"), QLabel("word")
    page.setLayout(TwoOnALine(first, second, least=60))
    page.resize(200, 80)
    page.show()
    qapp.processEvents()
    assert second.y() < first.geometry().bottom()
    second.setText("words that have no room beside the title any more")
    qapp.processEvents()
    assert second.y() >= first.geometry().bottom()
    page.close()
