"""What floats on the stage: bars, views, pictures and messages."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QPoint

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.session.app.swapping import show_view
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.snapshot import KeptBoard
from fox_hand.ui.apply.mix_bar import MixBar
from fox_hand.ui.capture.capture_frame import CaptureFrame
from fox_hand.ui.exchange.work_bar import WorkBar
from fox_hand.ui.link.host_picture import HostPicture
from fox_hand.ui.link.link_pill import LinkPill
from fox_hand.ui.puppet.drawing_shelf import PuppetShelves
from fox_hand.ui.puppet.ground_popup import GroundPopup
from fox_hand.ui.services.services import Services
from fox_hand.ui.stage.inset_view import InsetView
from fox_hand.ui.stage.reference_images import ReferenceImages
from fox_hand.ui.stage.stage_bars import EmptyStage, StageBars
from fox_hand.ui.stage.stage_view import Stage
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.timeline.between_bar import BetweenBar
from fox_hand.ui.timeline.clip_bar import ClipBar
from fox_hand.ui.widgets.notice import Notice


class Overlays:
    """They lie above one another in this order, and are placed together.

    Args:
        theme, workspace, services: what they show.
        stage: where they lie.
    """

    def __init__(
        self, theme: Theme, workspace: Workspace, services: Services, stage: Stage
    ) -> None:
        pictures, post = services.pictures, services.bridge.post
        self._theme, self._workspace, self._stage = theme, workspace, stage
        self.bars = StageBars(theme, workspace, stage)
        self.empty = EmptyStage(theme, stage)
        self.frame = CaptureFrame(theme, stage)
        self.mix_bar = MixBar(theme, workspace, stage, pictures, post)
        self.pill = LinkPill(theme, workspace.linking, stage)
        self.host_picture = HostPicture(theme, workspace.linking, stage)
        self.pill.placed.connect(self._push_notice)
        self.pill.picture_asked.connect(self.host_picture.toggle)
        self.lens = InsetView(theme, workspace, stage, pictures, post)
        self.shelves = PuppetShelves(theme, workspace, stage, pictures, post)
        self.boards = ReferenceImages(theme, stage)
        self.notice = Notice(theme, stage)
        self.work_bar = WorkBar(theme, stage, workspace.file_jobs)
        self.between = BetweenBar(theme, workspace, stage)
        self.lay_bar = ClipBar(theme, workspace, stage)
        self.bars.ground.clicked.connect(self.show_ground)
        self.bars.lens.clicked.connect(self._lens_switched)
        self.lens.close_button.clicked.connect(self.bars.lens.click)
        self.boards.changed.connect(self._boards_changed)
        self.mix_bar.choices.turn_asked.connect(self._turn_to_view)
        self._fading: BoardsStep | None = None
        workspace.mix_changed.connect(self.mix_bar.place)
        for part in (self.lay_bar, self.mix_bar):
            part.told.connect(self.notice.tell)

    def place(self) -> None:
        """Everything where it belongs, after the stage changed its size."""
        self.between.place()
        self.lay_bar.place()
        self.bars.place()
        left, right = self.bars.left.geometry(), self.bars.right.geometry()
        self.pill.place(left, right, self._stage.rect())
        self._push_notice()
        self.host_picture.place(right.bottom() + 8, right.right() + 1)
        self.shelves.place()
        self.empty.place()
        self.mix_bar.place()
        self.lens.place(self._stage.bottom_reserved)
        if self.notice.isVisible():
            self.notice.place()
        self.frame.setGeometry(self._stage.rect())

    def _push_notice(self) -> None:
        """Messages lie below the link's bar, where that lies in a row of its own."""
        below = self.pill.isVisibleTo(self._stage) and self.pill.y() > self.bars.left.y()
        pushed = self.pill.height() + 8 if below else 0
        if pushed != self.notice.pushed:
            self.notice.pushed = pushed
            if self.notice.isVisible():
                self.notice.place()

    def _lens_switched(self) -> None:
        self.lens.set_on(self.bars.lens.isChecked())
        self.place()

    def show_ground(self) -> None:
        """What is under and behind the figures."""
        popup = GroundPopup(self._theme, self._workspace, self._stage)
        popup.told.connect(self.notice.tell)
        button = self.bars.ground
        popup.open_below(button)

    def _turn_to_view(self) -> None:
        """See the puppet as a card is drawn, and put that on as it is."""
        workspace, mix = self._workspace, self._workspace.mix
        one = None if mix is None else next((one for one in mix.cards if one.view), None)
        if mix is None or one is None:
            return
        number = mix.actor.rig.views.names.index(one.view)
        workspace.put_back()
        show_view(workspace, number)
        workspace.applying.put_on(one.entry)

    # -- reference pictures ---------------------------------------------------------------

    def pin_board(self, path: Path, at: QPoint) -> None:
        """Pin a reference picture to the stage, its middle under the pointer."""
        try:
            board = self.boards.pin(KeptBoard(str(path)))
        except FoxHandError as error:
            self.notice.tell_error(error)
            return
        board.move(max(at.x() - board.width() // 2, 0), max(at.y() - board.height() // 2, 0))
        self.boards.changed.emit()

    def show_boards(self, kept: list[KeptBoard]) -> None:
        """The pictures of a shot that was opened."""
        for problem in self.boards.show(kept):
            self.notice.tell_error(problem)
        self._workspace.shots.boards = self.boards.kept()

    def _boards_changed(self) -> None:
        before, after = list(self._workspace.shots.boards), self.boards.kept()
        if before == after:
            return
        history, fading = self._workspace.history, _only_fade(before, after)
        # however many notches the wheel turns: one step, from how it was before the first
        earlier = self._fading if fading and history.undo_step is self._fading else None
        if earlier is not None and earlier.other_fade_than(after):
            history.drop(earlier)
            before = earlier.before
        step = BoardsStep(_label(before, after, fading), before, after, self._put)
        if before != after:
            history.push(step)
        self._fading = step if fading else None
        self._workspace.shots.boards = after

    def _put(self, kept: list[KeptBoard]) -> None:
        self.show_boards(kept)
        self._workspace.shots.boards = kept
        self._workspace.shots.write_down()


@dataclass(frozen=True, eq=False)
class BoardsStep:
    """The reference pictures before and after something was done to one of them."""

    label: str
    before: list[KeptBoard]
    after: list[KeptBoard]
    put: Callable[[list[KeptBoard]], None]

    def other_fade_than(self, later: list[KeptBoard]) -> bool:
        """Whether the picture that was faded here is the one that differs later."""
        return _only_fade(self.before, later) == _only_fade(self.before, self.after)

    def undo(self) -> None:
        self.put(self.before)

    def redo(self) -> None:
        self.put(self.after)


def _only_fade(before: list[KeptBoard], after: list[KeptBoard]) -> tuple[int, ...]:
    """Which pictures differ, where they differ only in how solid they are; else nothing."""
    if len(before) != len(after):
        return ()
    differ = [i for i, pair in enumerate(zip(before, after, strict=True)) if pair[0] != pair[1]]
    same = all(replace(before[i], fade=after[i].fade) == after[i] for i in differ)
    return tuple(differ) if same else ()


def _label(before: list[KeptBoard], after: list[KeptBoard], fading: tuple[int, ...]) -> str:
    if fading:
        return tr("Fade a reference picture")
    words = {1: tr("Pin a reference picture"), -1: tr("Take a reference picture off")}
    return words.get(len(after) - len(before), tr("Move a reference picture"))
