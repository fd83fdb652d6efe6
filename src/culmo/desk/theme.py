"""The look: greys only, two typefaces, an eight-pixel rhythm."""

from dataclasses import dataclass
from importlib.resources import files
from pathlib import Path

from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication, QWidget

SANS, SERIF = "Cabin", "Vollkorn"
STEP = 8
TITLE_SIZE_MM = 4.5  # labels on a sheet from this size on are titles


# the sheet's own: what is drawn on paper is the same in every scheme
PENCIL, INK, PAPER = QColor(92, 92, 92), QColor(24, 24, 24), QColor(247, 246, 241)


@dataclass(frozen=True)
class Scheme:
    """Greys of one scheme, as levels 0..255 with R = G = B."""

    ground: int
    panel: int
    raised: int
    line: int
    edge: int
    soft: int
    text: int
    strong: int
    icons: str = ""

    def icon(self, name: str) -> str:
        """The path of a small picture in this scheme's grey."""
        return Path(str(files("culmo.data").joinpath("icons", f"{name}{self.icons}.svg"))).as_posix()

    def colour(self, name: str) -> QColor:
        """A grey by its role."""
        level = getattr(self, name)
        return QColor(level, level, level)


DAY = Scheme(ground=236, panel=246, raised=255, line=208, edge=128, soft=88, text=32, strong=0)
NIGHT = Scheme(
    ground=44, panel=34, raised=56, line=74, edge=134, soft=170, text=226, strong=255, icons="-night"
)


def load_fonts() -> None:
    """Make the shipped typefaces known to Qt."""
    for entry in files("culmo.data").joinpath("fonts").iterdir():
        if entry.name.endswith((".otf", ".ttf")):
            QFontDatabase.addApplicationFontFromData(entry.read_bytes())


def sans(points: float = 10.5, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """The typeface of all text, with tabular figures of even height; at the usual size, see `scaled`."""
    font = QFont(SANS)
    font.setPointSizeF(points / _Text.dots)
    font.setWeight(weight)
    font.setFeature(QFont.Tag("tnum"), 1)
    font.setFeature(QFont.Tag("lnum"), 1)
    return font


def serif(points: float = 15.0) -> QFont:
    """The typeface of titles, with lining figures."""
    font = QFont(SERIF)
    font.setPointSizeF(points / _Text.dots)
    font.setFeature(QFont.Tag("lnum"), 1)
    return font


class _Text:
    """How large the text of the window is: as the system has it, and as the painter wished."""

    scale = 1.0
    dots = 1.0  # of the screen, against the 96 an inch that the typefaces are given for


def text_scale() -> float:
    """How large text is beside the usual, and what holds text with it."""
    return _Text.scale


def set_text_scale(scale: float, dots: float = 1.0) -> None:
    """How large text is from now on; `culmo.desk.text_size` changes what is on view.

    Parameters
    ----------
    scale : float, against the usual size at 96 dots an inch
    dots : float, the dots an inch of the screen against 96
    """
    _Text.scale, _Text.dots = scale, dots


def px(pixels: float) -> int:
    """A length of the window that holds text, in pixels, at the size of text that is wished."""
    return round(pixels * _Text.scale)


def scaled(font: QFont) -> QFont:
    """A font at the size of text that is wished."""
    return font if _Text.scale == 1.0 else _times(font, _Text.scale)


def _times(font: QFont, scale: float) -> QFont:
    larger = QFont(font)
    larger.setPointSizeF(font.pointSizeF() * scale)
    return larger


def give_font(widget: QWidget, font: QFont, large: bool = False) -> None:
    """Give a part of the window a font of its own, which follows the size of text.

    Parameters
    ----------
    widget : QWidget
    font : QFont, at the usual size
    large : bool, whether it is read from afar already: it then follows half way
    """
    widget.setProperty("culmo font", font)
    widget.setProperty("culmo large", large)
    follow_text(widget)


def follow_text(widget: QWidget) -> None:
    """Have a font that was given to a part of the window at the size of text that is in force."""
    font = widget.property("culmo font")
    if isinstance(font, QFont):
        half_way = _Text.dots * (_Text.scale / _Text.dots) ** 0.5
        widget.setFont(_times(font, half_way) if widget.property("culmo large") else scaled(font))


def apply_theme(app: QApplication, scheme: Scheme = DAY) -> None:
    """Give the application its greys and its typeface."""
    app.setStyle("Fusion")
    app.setFont(scaled(sans()))
    palette = QPalette()
    roles = {
        QPalette.ColorRole.Window: "panel",
        QPalette.ColorRole.Base: "raised",
        QPalette.ColorRole.AlternateBase: "panel",
        QPalette.ColorRole.Button: "panel",
        QPalette.ColorRole.WindowText: "text",
        QPalette.ColorRole.Text: "text",
        QPalette.ColorRole.ButtonText: "text",
        QPalette.ColorRole.ToolTipBase: "raised",
        QPalette.ColorRole.ToolTipText: "text",
        QPalette.ColorRole.PlaceholderText: "soft",
        QPalette.ColorRole.Highlight: "text",
        QPalette.ColorRole.HighlightedText: "raised",
        QPalette.ColorRole.Link: "text",
        QPalette.ColorRole.LinkVisited: "soft",
        QPalette.ColorRole.Accent: "text",
        QPalette.ColorRole.Mid: "line",
        QPalette.ColorRole.Midlight: "line",
        QPalette.ColorRole.Dark: "soft",
        QPalette.ColorRole.Light: "raised",
        QPalette.ColorRole.Shadow: "soft",
    }
    for role, name in roles.items():
        palette.setColor(role, scheme.colour(name))
    for role in (QPalette.ColorRole.WindowText, QPalette.ColorRole.Text, QPalette.ColorRole.ButtonText):
        grey = (scheme.soft + scheme.line) // 2
        palette.setColor(QPalette.ColorGroup.Disabled, role, QColor(grey, grey, grey))
    app.setProperty("culmo scheme", scheme.icons)
    app.setPalette(palette)
    app.setStyleSheet(style_sheet(scheme))


def scheme_of(app: QApplication) -> Scheme:
    """The greys that the application has."""
    return NIGHT if app.property("culmo scheme") == NIGHT.icons else DAY


def style_sheet(scheme: Scheme) -> str:
    """The style sheet in the scheme's greys."""

    def grey(name: str) -> str:
        return scheme.colour(name).name()

    return f"""
    QWidget#ground {{ background: {grey("ground")}; }}
    QWidget#panel, QWidget#slip, QFrame#header, QWidget#rail {{ background: {grey("panel")}; }}
    QFrame#tool {{ background: {grey("panel")}; border: 1px solid {grey("line")}; border-radius: 4px; }}
    QFrame#rule {{ background: {grey("line")}; border: none; }}
    QLabel#soft {{ color: {grey("soft")}; }}
    QMenuBar {{ background: {grey("panel")}; padding: 2px 4px; }}
    QMenuBar::item:selected, QMenu::item:selected {{ background: {grey("text")}; color: {grey("raised")}; }}
    QMenu {{ background: {grey("raised")}; border: 1px solid {grey("line")}; padding: 4px; }}
    QMenu::item {{ padding: 5px 28px 5px 20px; }}
    QMenu::item:disabled {{ color: {grey("soft")}; }}
    QMenu::separator {{ height: 1px; background: {grey("line")}; margin: 4px 8px; }}
    QToolButton#chip {{ border: 1px solid {grey("edge")}; border-radius: 10px; background: transparent;
        color: {grey("text")}; padding: 2px 8px; }}
    QToolButton#chip:hover {{ border-color: {grey("soft")}; }}
    QToolButton#chip:checked {{ background: {grey("text")}; border-color: {grey("text")}; color: {grey("raised")}; }}
    QToolButton#chip:focus {{ border: 1px dotted {grey("strong")}; }}
    QToolButton#tab {{ border: none; background: transparent; padding: 6px 2px 8px 2px; margin: 0 9px;
        color: {grey("soft")}; border-bottom: 3px solid transparent; }}
    QToolButton#tab:hover {{ color: {grey("text")}; }}
    QToolButton#tab:checked {{ color: {grey("strong")}; border-bottom: 3px solid {grey("strong")}; }}
    QToolButton#tab:focus {{ border: 1px dotted {grey("soft")}; border-bottom: 3px solid {grey("soft")}; }}
    QToolButton#tab:checked:focus {{ border-bottom: 3px solid {grey("strong")}; }}
    QPushButton {{ background: {grey("raised")}; border: 1px solid {grey("soft")}; border-radius: 4px;
        padding: 6px 14px; color: {grey("text")}; }}
    QPushButton:checked {{ background: {grey("text")}; color: {grey("raised")}; border-color: {grey("text")}; }}
    QPushButton:hover {{ border-color: {grey("strong")}; }}
    QPushButton:focus {{ border: 2px solid {grey("strong")}; padding: 5px 13px; }}
    QPushButton:disabled {{ color: {grey("soft")}; border-color: {grey("line")}; background: transparent; }}
    QPushButton#small, QPushButton#small:focus {{ padding: 4px 0; }}
    QPushButton#due {{ text-align: left; padding: 0; }}
    QPushButton#strong {{ background: {grey("text")}; color: {grey("raised")}; border-color: {grey("text")};
        font-weight: 600; padding: 8px 20px; }}
    QPushButton#strong:hover {{ background: {grey("strong")}; }}
    QPushButton#strong:focus {{ border: 2px solid {grey("soft")}; padding: 7px 19px; }}
    QPushButton#strong:disabled {{ background: {grey("line")}; border-color: {grey("line")}; color: {grey("soft")}; }}
    QLineEdit, QPlainTextEdit, QSpinBox, QDoubleSpinBox, QComboBox {{ background: {grey("raised")};
        border: 1px solid {grey("edge")}; border-radius: 4px; padding: 4px 6px; color: {grey("text")};
        selection-background-color: {grey("text")}; selection-color: {grey("raised")}; min-height: {px(20)}px; }}
    QLineEdit:focus, QPlainTextEdit:focus, QSpinBox:focus, QDoubleSpinBox:focus, QComboBox:focus {{
        border: 2px solid {grey("strong")}; padding: 3px 5px; }}
    QLineEdit[wrong="true"] {{ border: 2px dashed {grey("strong")}; padding: 3px 5px; }}
    QComboBox::drop-down {{ border: none; width: {px(22)}px; }}
    QDialogButtonBox, QMessageBox {{ dialogbuttonbox-buttons-have-icons: 0; }}
    QComboBox::down-arrow {{ image: url({scheme.icon("down")}); width: {px(12)}px; height: {px(12)}px; }}
    QSpinBox::up-button, QSpinBox::down-button, QDoubleSpinBox::up-button, QDoubleSpinBox::down-button {{
        border: none; width: {px(20)}px; background: transparent; }}
    QSpinBox::up-arrow, QDoubleSpinBox::up-arrow {{ image: url({scheme.icon("up")}); }}
    QSpinBox::down-arrow, QDoubleSpinBox::down-arrow {{ image: url({scheme.icon("down")}); }}
    QSpinBox::up-arrow, QDoubleSpinBox::up-arrow, QSpinBox::down-arrow, QDoubleSpinBox::down-arrow {{
        width: {px(10)}px; height: {px(10)}px; }}
    QComboBox#title {{ border: 1px solid transparent; background: transparent; padding: 0 4px 0 0; }}
    QComboBox#title:hover {{ border-bottom: 1px solid {grey("soft")}; }}
    QComboBox#title:focus {{ border-bottom: 2px solid {grey("strong")}; }}
    QComboBox QAbstractItemView {{ background: {grey("raised")}; border: 1px solid {grey("line")}; }}
    QCheckBox, QRadioButton {{ spacing: 8px; }}
    QCheckBox::indicator, QListView::indicator, QRadioButton::indicator {{ width: 13px; height: 13px;
        border: 1px solid {grey("soft")}; background: {grey("raised")}; margin: 1px; }}
    QCheckBox::indicator, QListView::indicator {{ border-radius: 3px; }}
    QCheckBox::indicator:checked, QListView::indicator:checked {{ image: url({scheme.icon("tick")}); }}
    QRadioButton::indicator {{ border-radius: 7px; }}
    QRadioButton::indicator:checked {{ width: 7px; height: 7px; border: 4px solid {grey("text")}; }}
    QCheckBox::indicator:focus, QRadioButton::indicator:focus {{
        border-color: {grey("strong")}; border-width: 2px; margin: 0; }}
    QRadioButton::indicator:checked:focus {{ border-width: 5px; border-radius: 8px; }}
    QCheckBox::indicator:disabled, QRadioButton::indicator:disabled {{
        border-color: {grey("line")}; background: transparent; }}
    QTableView, QListView, QTreeView {{ background: {grey("raised")}; border: 1px solid {grey("line")};
        gridline-color: {grey("line")}; }}
    QTableView::item:selected {{ background: {grey("raised")}; color: {grey("strong")};
        border-top: 2px solid {grey("strong")}; border-bottom: 2px solid {grey("strong")}; }}
    QTableView:focus, QListView:focus {{ border: 1px solid {grey("strong")}; }}
    QListView#lines, QListView#lines:focus {{ background: {grey("ground")}; outline: none; border: none; }}
    QHeaderView::section {{ background: {grey("panel")}; border: none; border-bottom: 1px solid {grey("line")};
        padding: 5px 8px 5px 3px; color: {grey("soft")}; }}
    QTableCornerButton::section {{ background: {grey("panel")}; border: none;
        border-bottom: 1px solid {grey("line")}; }}
    QScrollArea {{ background: transparent; border: none; }}
    QScrollBar:vertical {{ background: transparent; width: 9px; margin: 0; }}
    QScrollBar:horizontal {{ background: transparent; height: 9px; margin: 0; }}
    QScrollBar::handle {{ background: {grey("edge")}; border-radius: 4px; min-height: 24px; min-width: 24px; }}
    QScrollBar::handle:hover {{ background: {grey("soft")}; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QSlider::groove:horizontal {{ height: 2px; background: {grey("soft")}; }}
    QSlider::handle:horizontal {{ width: 14px; height: 14px; margin: -6px 0; border-radius: 7px;
        background: {grey("text")}; }}
    QSlider::handle:horizontal:focus {{ width: 12px; height: 12px; border: 3px solid {grey("soft")};
        margin: -8px 0; border-radius: 9px; }}
    QSlider::handle:horizontal:disabled {{ background: {grey("line")}; }}
    QProgressBar {{ border: 1px solid {grey("soft")}; border-radius: 3px; height: 6px; background: transparent; }}
    QProgressBar::chunk {{ background: {grey("text")}; }}
    QToolTip {{ background: {grey("raised")}; color: {grey("text")}; border: 1px solid {grey("soft")};
        padding: 4px; }}
    QStatusBar {{ background: {grey("panel")}; color: {grey("soft")}; border-top: 1px solid {grey("line")}; }}
    QStatusBar::item {{ border: none; }}
    """
