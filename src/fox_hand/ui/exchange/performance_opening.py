"""Files with motion and with expressions, brought in beside the window."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TypeVar

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QFileDialog, QWidget

from fox_hand.base.animation_facts import AnimationFacts
from fox_hand.base.language import tr, tr_n
from fox_hand.base.motion_wish import MotionWish
from fox_hand.base.work import Progress
from fox_hand.session.animating.motion_import import SUFFIXES, animations_in
from fox_hand.session.animating.performance_draft import PerformanceDraft, opened_performance
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.capturing.file_cards import Make, animation_card, expression_cards
from fox_hand.session.figures.figure import Figure
from fox_hand.session.runtime.listed_read import ListedRead
from fox_hand.ui.exchange.animations_dialog import AnimationsDialog
from fox_hand.ui.services.services import Services
from fox_hand.ui.stage.stage_bars import StageBars
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.notice import Notice

Result = TypeVar("Result")


class PerformanceOpener(QObject):
    """Reads motion for who acts; of several files only the last that was asked for counts."""

    read = Signal(object)  # PerformanceDraft

    def __init__(
        self,
        window: QWidget,
        theme: Theme,
        workspace: Workspace,
        services: Services,
        bars: StageBars,
        notice: Notice,
    ) -> None:
        super().__init__(window)
        self._window, self._theme, self._workspace = window, theme, workspace
        self._services, self._bars, self._notice = services, bars, notice
        self._asked = 0  # goes up with every file that is asked for

    def ask(self) -> None:
        """Let somebody choose a file."""
        kinds = " ".join(f"*{k}" for k in SUFFIXES)
        path, _ = QFileDialog.getOpenFileName(
            self._window,
            tr("Bring in a performance"),
            "",
            tr("Motion ({kinds});;All files (*)", kinds=kinds),
        )
        if path:
            self.open(Path(path))

    def open(self, path: Path) -> None:
        """Fit a motion file to the acting figure; of several animations one is chosen first."""
        actor = self._workspace.actor
        if actor is None:
            self._notice.tell(tr("Open a figure first; then bring in its performance."))
            return
        self._asked += 1
        asked = self._asked
        self._bars.busy(tr("Reading {name} …", name=path.name))

        def work(progress: Progress) -> list[AnimationFacts]:
            progress.step(0.0)
            return animations_in(path)

        def done(facts: list[AnimationFacts]) -> None:
            if asked != self._asked:
                return  # another one was asked for meanwhile
            self._bars.busy("")
            if len(facts) > 1:
                self._choose(path, actor, facts)
            else:
                self._perform(path, actor, None)

        self._list(tr("Read {name}", name=path.name), work, done)

    def _list(
        self, label: str, work: Callable[[Progress], Result], done: Callable[[Result], None]
    ) -> None:
        ListedRead(
            self._workspace.long_work,
            self._services.jobs,
            label,
            work,
            done,
            self._failed,
            stopped=lambda: self._bars.busy(""),
        )

    def _choose(self, path: Path, actor: Figure, facts: Sequence[AnimationFacts]) -> None:
        why_not = self._workspace.capturing.why_not() or ""
        dialog = AnimationsDialog(self._theme, self._window, path.name, facts, actor.name, why_not)
        dialog.one_chosen.connect(partial(self._perform, path, actor))
        dialog.all_chosen.connect(partial(self._as_cards, path, actor, facts))
        dialog.open()

    def _failed(self, error: Exception) -> None:
        self._bars.busy("")
        self._notice.tell_error(error)

    def _perform(self, path: Path, actor: Figure, animation: str | None) -> None:
        self._bars.busy(tr("Reading {name} …", name=path.name))
        asked, wish = self._asked, MotionWish(animation=animation)

        def work(progress: Progress) -> PerformanceDraft:
            progress.step(0.0)
            fits = self._workspace.mix_commands.fits
            return opened_performance(path, actor, wish, fits.told_names)

        def done(draft: PerformanceDraft) -> None:
            if asked != self._asked:
                return
            self._bars.busy("")
            if actor is self._workspace.actor:
                self.read.emit(draft)
            else:
                self._notice.tell(
                    tr(
                        "{name} was read for {name_2}, but somebody else acts now. Bring it in "
                        "again for whom it is meant.",
                        name=path.name,
                        name_2=actor.name,
                    )
                )

        self._list(tr("Read {name}", name=path.name), work, done)

    # -- as cards -------------------------------------------------------------------------

    def _as_cards(self, path: Path, actor: Figure, facts: Sequence[AnimationFacts]) -> None:
        fits = self._workspace.mix_commands.fits

        def told(source: str) -> dict[str, str | None]:
            return fits.told_names(source, actor.rig)

        made: list[tuple[str, Make]] = [
            (one.name, partial(animation_card, path, actor, str(number), one.name, told))
            for number, one in enumerate(facts, 1)
        ]
        label = tr(
            "{counted} of {name} as cards",
            counted=tr_n("{number:,} animation", "{number:,} animations", len(made)),
            name=path.name,
        )
        self._take(label, actor, made, f"{actor.rig.name}/{path.stem}")

    def expressions(self, actor: Figure) -> None:
        """The expressions of a character's file as cards of it."""
        why_not = self._workspace.capturing.why_not()
        if why_not is not None:
            self._notice.tell(why_not)
            return

        def work(progress: Progress) -> list[tuple[str, Make]]:
            progress.step(0.0)
            return expression_cards(actor.path, actor.rig)

        def done(made: list[tuple[str, Make]]) -> None:
            label = tr(
                "{counted} of {name} as cards",
                counted=tr_n("{number:,} expression", "{number:,} expressions", len(made)),
                name=actor.rig.name,
            )
            self._take(label, actor, made, f"{actor.rig.name}/Expressions")

        self._list(tr("Read {name}", name=actor.path.name), work, done)

    def _take(
        self, label: str, actor: Figure, made: Sequence[tuple[str, Make]], sheet: str
    ) -> None:
        capturing = self._workspace.capturing

        def then(outcome: object) -> None:
            done = len(getattr(outcome, "done", ()))
            if done:
                self._notice.tell(
                    tr(
                        "{counted} of {name} in {sheet}.",
                        counted=tr_n("{number:,} card", "{number:,} cards", done),
                        name=actor.rig.name,
                        sheet=sheet,
                    )
                )

        if not capturing.file_cards.take(label, actor, made, sheet, then):
            self._notice.tell(capturing.why_not() or tr("There is nothing to make cards of."))
