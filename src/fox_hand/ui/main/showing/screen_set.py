"""The screens that take the place of the columns, each built when it is first needed."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QStackedWidget, QWidget

from fox_hand import __version__
from fox_hand.base.manual import manual_folder
from fox_hand.session.app.workspace import Workspace
from fox_hand.ui.main.header import Mark
from fox_hand.ui.screens.assemble.assemble_screen import AssembleScreen
from fox_hand.ui.screens.care.care_screen import CareScreen
from fox_hand.ui.screens.charts.charts_screen import ChartsScreen
from fox_hand.ui.screens.compare.compare_screen import CompareScreen
from fox_hand.ui.screens.fit.fit_screen import FitScreen
from fox_hand.ui.screens.manual.manual_screen import ManualScreen
from fox_hand.ui.screens.pairs.pairs_screen import PairsScreen
from fox_hand.ui.screens.performance.performance_screen import PerformanceScreen
from fox_hand.ui.screens.preferences.preferences_screen import PreferencesScreen
from fox_hand.ui.screens.start.start_screen import StartScreen
from fox_hand.ui.services.services import Services
from fox_hand.ui.theme.theme import Theme

Screen = TypeVar("Screen", bound=QWidget)
Then = Callable[[], object]

NAMES = (
    *("manual", "compare", "fit", "charts", "pairs", "care", "performance", "assemble"),
    *("preferences", "start"),
)
BETWEEN = 200  # milliseconds of rest before the next one is built


class ScreenSet:
    """All of them by name. Whoever connects to one says so with :meth:`when`, and nothing is built
    for that.

    Args:
        theme, workspace, services: the window's.
        desk: the columns, which they take the place of.

    Attributes:
        body: shows one of them, or the columns.
    """

    def __init__(
        self, theme: Theme, workspace: Workspace, services: Services, desk: QWidget
    ) -> None:
        self._theme, self._workspace, self._services = theme, workspace, services
        self.body = QStackedWidget()
        self.body.addWidget(desk)
        self._built: dict[str, QWidget] = {}
        self._then: dict[str, list[Then]] = {name: [] for name in NAMES}
        self._later = QTimer(self.body)
        self._later.setSingleShot(True)
        self._later.setInterval(BETWEEN)
        self._later.timeout.connect(self._build_next)

    def _screen(self, name: str, kind: type[Screen], make: Callable[[], Screen]) -> Screen:
        if name not in self._built:
            self._built[name] = made = make()
            self.body.addWidget(made)
            for then in self._then.pop(name):
                then()
        found = self._built[name]
        assert isinstance(found, kind)
        return found

    def when(self, name: str, then: Then) -> None:
        """Do something with a screen once it is there, or at once."""
        if name in self._built:
            then()
        else:
            self._then[name].append(then)

    def is_built(self, name: str) -> bool:
        return name in self._built

    @property
    def now(self) -> str:
        """The name of the screen that is open; empty for the columns."""
        open_one = self.body.currentWidget()
        return next((name for name, one in self._built.items() if one is open_one), "")

    def build_in_turns(self) -> None:
        """Build those that are left one after the other while nobody does anything, so that the
        first opening of each is as quick as the second."""
        self._later.start()

    def _build_next(self) -> None:
        left = [name for name in NAMES if name not in self._built]
        if not left:
            return
        resting = QGuiApplication.mouseButtons() == Qt.MouseButton.NoButton
        if resting and self._workspace.mix is None and not self.now:
            getattr(self, left[0])
        self._later.start()

    # -- one by one -----------------------------------------------------------------------

    @property
    def pairs(self) -> PairsScreen:
        pictures, post = self._services.pictures, self._services.bridge.post
        return self._screen(
            "pairs",
            PairsScreen,
            lambda: PairsScreen(self._theme, self._workspace, pictures, post),
        )

    @property
    def care(self) -> CareScreen:
        return self._screen("care", CareScreen, lambda: CareScreen(self._theme, self._workspace))

    @property
    def fit(self) -> FitScreen:
        pictures, post = self._services.pictures, self._services.bridge.post
        return self._screen(
            "fit", FitScreen, lambda: FitScreen(self._theme, self._workspace, pictures, post)
        )

    @property
    def compare(self) -> CompareScreen:
        pictures, post = self._services.pictures, self._services.bridge.post
        return self._screen(
            "compare",
            CompareScreen,
            lambda: CompareScreen(self._theme, self._workspace, pictures, post),
        )

    @property
    def performance(self) -> PerformanceScreen:
        pictures, post = self._services.pictures, self._services.bridge.post
        return self._screen(
            "performance",
            PerformanceScreen,
            lambda: PerformanceScreen(self._theme, self._workspace, pictures, post),
        )

    @property
    def charts(self) -> ChartsScreen:
        return self._screen(
            "charts", ChartsScreen, lambda: ChartsScreen(self._theme, self._workspace)
        )

    @property
    def assemble(self) -> AssembleScreen:
        return self._screen(
            "assemble", AssembleScreen, lambda: AssembleScreen(self._theme, self._services.jobs)
        )

    @property
    def preferences(self) -> PreferencesScreen:
        workspace = self._workspace
        return self._screen(
            "preferences",
            PreferencesScreen,
            lambda: PreferencesScreen(
                self._theme,
                workspace.preferences,
                workspace.open_libraries,
                str(workspace.places.config),
            ),
        )

    @property
    def start(self) -> StartScreen:
        return self._screen(
            "start",
            StartScreen,
            lambda: StartScreen(
                self._theme, Mark(self._theme), __version__, str(self._workspace.places.config)
            ),
        )

    @property
    def manual(self) -> ManualScreen:
        return self._screen(
            "manual", ManualScreen, lambda: ManualScreen(self._theme, manual_folder())
        )
