"""Entering many paints at once: a list to paste into, and beside it how each line is understood."""

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QMimeData, QSize, Qt, Signal
from PySide6.QtGui import QIcon, QKeySequence, QPixmap, QShortcut, QTextCursor
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPlainTextEdit,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from culmo.core.paint.entry import UnknownCode
from culmo.core.paint.paint_table import COLUMN_KINDS, PaintTable
from culmo.data import pigment_table
from culmo.desk.guard import guarded
from culmo.desk.rooms.box.entry_model import (
    AS_TYPED,
    KEEP_BOTH,
    LEAVE_OUT,
    EntryList,
    EntryRow,
    pasted_table,
    spoken_line,
)
from culmo.desk.session import Session
from culmo.desk.theme import STEP, px
from culmo.desk.typical import STROKE, typical_looks
from culmo.desk.widgets import Entry, as_tip, clear_layout, text_label, title_label
from culmo.errors import CulmoError
from culmo.study import box_acts, records
from culmo.study.box_acts import NewBox
from culmo.study.formats import Holds, open_filter
from culmo.study.paint_lists import paint_tables
from culmo.words import tr, trn

_HEADS = (tr("Paint"), tr("Pigments"), tr("The label says"), tr("Question"))
_EXAMPLE = tr("Ultramarine PB29, granulating\nGreen PG7 + PY150\nRose PV19, transparent, staining\n...")
NOWHERE, NEW_BOX = tr("in no box"), tr("in a new box")
_MOST_COLUMNS, _A_ROW = 15, 5  # that can be matched by hand, and beside each other


@guarded
class _Lines(QPlainTextEdit):
    """Where the list is typed; a table that is pasted is told."""

    table_pasted = Signal(object)

    def insertFromMimeData(self, source: QMimeData) -> None:
        table = pasted_table(source.text()) if source.hasText() else None
        if table is not None:
            self.table_pasted.emit(table)
        else:
            super().insertFromMimeData(source)

    def replace_all(self, text: str) -> None:
        """Another text, from which one can go back."""
        cursor = QTextCursor(self.document())
        cursor.select(QTextCursor.SelectionType.Document)
        cursor.insertText(text)


class EntryDialog(QDialog):
    """Paste, look, answer, take in."""

    def __init__(self, parent: QWidget, session: Session, text: str = "") -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle(tr("Enter paints"))
        self.resize(min(1060, parent.window().width() - 4 * STEP), 620)
        names = [paint.name for paint in records.paints(session.file, retired=True)]
        self.list = EntryList(names, pigment_table())
        layout = QVBoxLayout(self)
        layout.setContentsMargins(2 * STEP, STEP, 2 * STEP, 2 * STEP)
        layout.addWidget(title_label(tr("Enter paints"), 18))
        layout.addWidget(
            text_label(
                tr(
                    "One paint a line: its name, its Colour Index codes, and what the label says, in any "
                    "order."
                ),
                soft=True,
            )
        )
        self.columns = QGridLayout()
        self.columns.setHorizontalSpacing(STEP)
        self.columns.setVerticalSpacing(STEP // 2)
        self.tables: list[PaintTable] = []
        self.page = 0
        self._before = ""
        layout.addLayout(self.columns)
        body = QHBoxLayout()
        body.setSpacing(2 * STEP)
        self.text = _Lines()
        self.text.setPlaceholderText(_EXAMPLE)
        self.text.setAccessibleName(tr("List of paints"))
        self.text.setTabChangesFocus(True)
        self.text.setMinimumWidth(px(260))
        body.addWidget(self.text, 3)
        self.table = QTableWidget(0, len(_HEADS))
        self.table.setHorizontalHeaderLabels(list(_HEADS))
        self.table.verticalHeader().hide()
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionMode(QTableWidget.SelectionMode.NoSelection)
        self.table.setAccessibleName(tr("How the list is understood"))
        self.table.setIconSize(QSize(px(64), px(24)))
        head = self.table.horizontalHeader()
        head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        for column, width in ((0, 210), (1, 110), (3, 270)):
            head.resizeSection(column, px(width))
        head.setStretchLastSection(False)
        head.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        self.table.setShowGrid(False)
        body.addWidget(self.table, 8)
        layout.addLayout(body, 1)
        layout.addLayout(self._foot())
        self.message = text_label("", bold=True)
        self.message.hide()
        layout.insertWidget(layout.count() - 1, self.message)
        self.text.textChanged.connect(self._read)
        shortcut = QShortcut(QKeySequence("Ctrl+Return"), self)
        shortcut.activated.connect(self.take_in)
        table = pasted_table(text)
        if table is not None:
            self._take_tables([table])
        else:
            self.text.setPlainText(text)
        self.text.table_pasted.connect(lambda table: self._take_tables([table]))
        self._read()
        self._choose_place()
        (self.take if text else self.text).setFocus()

    def _foot(self) -> QHBoxLayout:
        foot = QHBoxLayout()
        foot.setSpacing(STEP)
        self.file = QPushButton(tr("From a spreadsheet…"))
        self.file.setAutoDefault(False)
        self.file.clicked.connect(self._choose_file)
        foot.addWidget(self.file)
        foot.addStretch(1)
        label = text_label(tr("Lay them"))
        label.setWordWrap(False)
        foot.addWidget(label)
        self.where = QComboBox()
        self.where.setAccessibleName(tr("Where to lay them"))
        self.where.addItem(NEW_BOX, -1)
        for box in self.session.boxes:
            free = box.shape.count - len(box.paints)
            self.where.addItem(tr("in {name} ({free} free)", name=box.name, free=free), box.id)
        self.where.addItem(NOWHERE, 0)
        self.where.setMaximumWidth(px(260))
        self.where.currentIndexChanged.connect(lambda _: self._show_where())
        foot.addWidget(self.where)
        self.box_name = Entry(tr("Studio box"), tr("Name of the box"))
        self.box_name.setText(self._box_name())
        self.box_name.setMaximumWidth(px(170))
        foot.addWidget(self.box_name)
        self.take = QPushButton(tr("Take in"))
        self.take.setObjectName("strong")
        self.take.setDefault(True)
        self.take.clicked.connect(self.take_in)
        cancel = QPushButton(tr("Cancel"))
        cancel.setAutoDefault(False)
        cancel.clicked.connect(self.reject)
        foot.addWidget(cancel)
        foot.addWidget(self.take)
        return foot

    def _choose_place(self) -> None:
        """The box in use, where it has the room; else a new one."""
        box = self.session.selection.box
        if box is not None and box.shape.count - len(box.paints) >= max(self.list.wells_needed(), 1):
            self.where.setCurrentIndex(max(0, self.where.findData(box.id)))

    def _box_name(self) -> str:
        from culmo.core.paint.entry import free_name

        return free_name(tr("Studio box"), [box.name for box in self.session.boxes])

    def _show_where(self) -> None:
        self.box_name.setVisible(self.where.currentData() == -1)

    # ---- reading the list

    def _read(self) -> None:
        self.list.set_text(self.text.toPlainText())
        self.table.setRowCount(len(self.list.rows))
        for place, row in enumerate(self.list.rows):
            self._show_row(place, row)
        self._show_sum()

    def _show_row(self, place: int, row: EntryRow) -> None:
        texts = (row.line.name, row.codes_text, spoken_line(row.line))
        for column, text in enumerate(texts):
            item = QTableWidgetItem(text)
            item.setToolTip(as_tip(text))
            if not column:
                item.setIcon(self._stroke_of(row.codes_text))
            self.table.setItem(place, column, item)
        self.table.setCellWidget(place, 3, self._question(row))
        self.table.resizeRowToContents(place)
        self.table.setRowHeight(place, max(36, self.table.rowHeight(place) + 8))

    def _stroke_of(self, codes: str) -> QIcon:
        """The stroke that a paint of these codes will most likely have."""
        looks, ratio = typical_looks(codes), self.devicePixelRatioF()
        if looks is None:
            return QIcon()
        size = self.table.iconSize()
        image = looks.stroke(STROKE, round(size.width() * ratio), round(size.height() * ratio), ratio)
        image.setDevicePixelRatio(ratio)
        return QIcon(QPixmap.fromImage(image))

    def _question(self, row: EntryRow) -> QWidget:
        holder = QWidget()
        line = QHBoxLayout(holder)
        line.setContentsMargins(4, 2, 4, 2)
        if row.too_long:
            line.addWidget(text_label(tr("name too long: left out"), bold=True))
        elif row.twin:
            line.addWidget(self._twin_question(row))
        for unknown in row.line.unknown[:1]:
            line.addWidget(self._code_question(row, unknown))
        line.addStretch(1)
        return holder

    def _twin_question(self, row: EntryRow) -> QComboBox:
        box = QComboBox()
        box.setAccessibleName(tr("There is a {twin} already", twin=row.twin))
        box.addItem(tr("There already: leave out"), LEAVE_OUT)
        box.addItem(tr("There already: keep both"), KEEP_BOTH)
        box.setCurrentIndex(box.findData(row.twin_answer))
        box.activated.connect(lambda at: self._answer_twin(row, str(box.itemData(at))))
        return box

    def _answer_twin(self, row: EntryRow, answer: str) -> None:
        self.list.answer_twin(row, answer)
        self._show_sum()

    def _code_question(self, row: EntryRow, unknown: UnknownCode) -> QComboBox:
        box = QComboBox()
        box.setAccessibleName(tr("{code} is not in the table", code=unknown.code))
        box.addItem(tr("{code}? leave as typed", code=unknown.code), AS_TYPED)
        table = pigment_table()
        for code in unknown.near:
            box.addItem(f"{code}, {table[code].name}", code)
        box.setCurrentIndex(max(0, box.findData(row.codes.get(unknown.code, AS_TYPED))))
        box.activated.connect(lambda at: self._answer_code(row, unknown.code, str(box.itemData(at))))
        return box

    def _answer_code(self, row: EntryRow, code: str, answer: str) -> None:
        self.list.answer_code(row, code, answer)
        for place, other in enumerate(self.list.rows):
            item = self.table.item(place, 1)
            if item is not None:
                item.setText(other.codes_text)
        self._show_sum()

    def _show_sum(self) -> None:
        count = len(self.list.kept())
        self.take.setText(trn("Take in {n} paint", "Take in {n} paints", count) if count else tr("Take in"))
        self.take.setEnabled(count > 0)
        self._say(self.list.summary() if self.list.rows else "")
        self._show_where()

    def _say(self, text: str) -> None:
        self.message.setText(text)
        self.message.setVisible(bool(text))

    # ---- taking in

    def _choose_file(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, tr("A table of paints"), "", open_filter(tr("Tables"), Holds.PAINTS)
        )
        if name:
            self.read_file(Path(name))

    def read_file(self, path: Path) -> None:
        """The paints of a table, shown as lines to be looked at, with what each column was taken for."""
        try:
            tables = paint_tables(path)
        except CulmoError as error:
            self._say(str(error))
            return
        self._take_tables(tables)

    def _take_tables(self, tables: list[PaintTable]) -> None:
        """Add a file's or a clipboard's paints; of several pages the first that names its columns."""
        self._before = self.text.toPlainText().rstrip()
        self.tables = tables
        self.page = next((i for i, table in enumerate(tables) if table.headed), 0)
        self._match()

    def _match(self) -> None:
        """Lay the columns out to be matched, and read the table so."""
        table = self.tables[self.page]
        clear_layout(self.columns)
        places = [self._column_choice(place) for place in range(min(len(table.titles), _MOST_COLUMNS))]
        headed = QCheckBox(tr("The first row names them"))
        headed.setChecked(table.headed)
        headed.toggled.connect(lambda on: self._set_table(replace(self.tables[self.page], headed=on)))
        self.columns.addWidget(self._head(), 0, 0)
        self.columns.addWidget(headed, 1, 0)
        for place, (title, choice) in enumerate(places):
            row, column = divmod(place, _A_ROW)
            self.columns.addWidget(title, 2 * row, 1 + column, Qt.AlignmentFlag.AlignBottom)
            self.columns.addWidget(choice, 2 * row + 1, 1 + column)
        lines = "\n".join(table.lines())
        self.text.replace_all(f"{self._before}\n{lines}" if self._before else lines)

    def _column_choice(self, place: int) -> tuple[QLabel, QComboBox]:
        """The head of a column, and below it what it holds."""
        table = self.tables[self.page]
        name = table.titles[place].strip() or tr("column {n}", n=place + 1)
        kind = table.kinds[place]
        title = text_label("", bold=bool(kind), soft=not kind, points=10)
        title.setWordWrap(False)
        title.setText(title.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, 140))
        title.setToolTip(as_tip(name))
        choice = QComboBox()
        for value, word in COLUMN_KINDS:
            choice.addItem(word, value)
        choice.setCurrentIndex(choice.findData(kind))
        choice.setAccessibleName(tr("What the column {name} holds", name=name))
        choice.setMinimumContentsLength(10)
        choice.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        choice.activated.connect(
            lambda at: self._set_table(self.tables[self.page].with_kind(place, str(choice.itemData(at))))
        )
        return title, choice

    def _head(self) -> QWidget:
        """Which page of the spreadsheet is read, where there are several."""
        if len(self.tables) == 1:
            return text_label(tr("The columns hold"), soft=True)
        box = QComboBox()
        box.setAccessibleName(tr("Page of the spreadsheet"))
        for table in self.tables:
            box.addItem(table.name[:24])
        box.setCurrentIndex(self.page)
        box.activated.connect(self._show_page)
        return box

    def _show_page(self, page: int) -> None:
        self.page = page
        self._match()

    def _set_table(self, table: PaintTable) -> None:
        self.tables[self.page] = table
        self._match()

    def take_in(self) -> None:
        """One act: all paints, laid where they were wished to lie."""
        where = self.where.currentData()
        box: int | NewBox | None = None
        if where == -1:
            box = self.list.new_box(self.box_name.text()) if self.list.wells_needed() else None
        elif where:
            box = int(where)
        try:
            command = box_acts.add_paints(self.session.file, self.list.entries(), box, self.list.pans())
        except CulmoError as error:
            self._say(str(error))
            return
        before = {known.id for known in self.session.boxes}
        if self.session.do(command):
            made = [known.id for known in self.session.boxes if known.id not in before]
            if made:
                self.session.selection.select_box(made[0])
            self.accept()
