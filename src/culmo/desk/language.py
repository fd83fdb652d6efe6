"""Which language the window speaks, and how it writes numbers: the painter's choice, or the system's."""

from PySide6.QtCore import QLibraryInfo, QLocale, QTranslator
from PySide6.QtWidgets import QApplication

from culmo import words
from culmo.desk.settings import Settings


def speak(settings: Settings | None = None) -> str:
    """Choose the language, before the modules that speak are loaded; gives the one that is spoken."""
    settings = settings or Settings.of_user()
    system = QLocale.system()
    wished = settings.language or (system.uiLanguages() or [words.ENGLISH])[0]
    half_days = "ap" in system.timeFormat(QLocale.FormatType.ShortFormat).casefold()
    return words.use(wished, system.decimalPoint(), half_days)


def translate_qt(app: QApplication) -> None:
    """Let Qt's own dialogs speak the same language."""
    if words.language() == words.ENGLISH or app.property("culmo language") == words.language():
        return
    translator = QTranslator(app)
    folder = QLibraryInfo.path(QLibraryInfo.LibraryPath.TranslationsPath)
    if translator.load(f"qtbase_{words.language()}", folder):
        app.installTranslator(translator)
    app.setProperty("culmo language", words.language())
