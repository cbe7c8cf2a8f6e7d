"""What the toolkit says and where it begins lines, in the language of the user."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QLibraryInfo, QLocale, QObject, Qt, QTranslator
from PySide6.QtWidgets import QApplication, QWidget

from fox_hand.base.language import LANGUAGES, language, leftwards

OURS = "fox_hand."


def speak(application: QApplication) -> None:
    """Load the toolkit's own words (dialogs for files, menus of fields, names of keys), numbers as
    the language writes them, and the side at which lines begin. Before the window is made."""
    if language() in LANGUAGES and not QLocale.system().name().startswith(language()):
        QLocale.setDefault(QLocale(language()))
    words, place = QTranslator(application), QLibraryInfo.LibraryPath.TranslationsPath
    if words.load(f"qtbase_{language()}", QLibraryInfo.path(place)):
        application.installTranslator(words)
    if leftwards():
        application.installEventFilter(Leftwards(application))


class Leftwards(QObject):
    """Where lines begin at the right, windows and their layouts turn round. What is painted by hand
    keeps its places, and so its direction: time runs to the right in it, and a figure's left hand
    stays where it is. The application's own direction stays, as painters begin with that."""

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Polish and isinstance(watched, QWidget):
            ours = [k for k in type(watched).__mro__ if k.__module__.startswith(OURS)]
            if watched.isWindow():
                watched.setLayoutDirection(Qt.LayoutDirection.RightToLeft)
            elif watched.layout() is None and any("paintEvent" in vars(kind) for kind in ours):
                watched.setLayoutDirection(Qt.LayoutDirection.LeftToRight)
        return False
