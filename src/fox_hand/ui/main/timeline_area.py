"""The lower part of the window: the shot's strip, or the frames of a performance."""

from __future__ import annotations

from PySide6.QtWidgets import QSplitter, QStackedWidget

from fox_hand.session.app.workspace import Workspace
from fox_hand.ui.stage.camera_following import CameraFollowing
from fox_hand.ui.stage.stage_view import Stage
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.timeline.frame_strip import FrameStrip
from fox_hand.ui.timeline.playing import Playing
from fox_hand.ui.timeline.strip import Strip
from fox_hand.ui.timeline.strip_tools import StripTools

TALLEST = 16_777_215  # pixels, Qt's own for no limit


class TimelineArea(QStackedWidget):
    """Strip, tools, and what plays them.

    Args:
        theme, workspace: whose frames are shown.
        stage: where they are seen.
    """

    def __init__(self, theme: Theme, workspace: Workspace, stage: Stage) -> None:
        super().__init__()
        self._workspace = workspace
        self.strip = Strip(theme, workspace)
        self.tools = StripTools(theme, workspace, self.strip)
        self.frame_strip = FrameStrip(theme, workspace)
        self.playing = Playing(self, workspace, stage)
        self._following = CameraFollowing(workspace, stage)
        self.addWidget(self.strip)
        self.addWidget(self.frame_strip)
        self.setMinimumHeight(self.strip.minimumHeight())
        self._strip_height = self.strip.minimumHeight()
        self._upright: QSplitter | None = None
        workspace.timing.work_with(auto=workspace.settings.auto_key)
        self.strip.play_asked.connect(self.playing.toggle)
        self.playing.switched.connect(self.tools.show_playing)
        self.playing.measured.connect(self.tools.show_rate)
        workspace.review.changed.connect(self._on_review)
        workspace.timing.moved.connect(self._follow_frame)

    @property
    def of_review(self) -> bool:
        """Whether frames of a performance lie there instead of the shot's."""
        return self.currentWidget() is self.frame_strip

    def lie_in(self, upright: QSplitter) -> None:
        """Which splitter gives it its height."""
        self._upright = upright
        upright.addWidget(self)

    def place(self, width: int) -> None:
        """Frames line up under the stage, ``width`` pixels from the left."""
        self.strip.set_label_width(width)
        self.frame_strip.set_label_width(width)
        self.tools.set_width(width)

    def show_shot(self) -> None:
        """From the top, the whole range."""
        self.strip.set_scroll(0)
        self.strip.show_range()

    def go(self, frame: float) -> None:
        """Look at a frame, and see where it is."""
        self._workspace.go(max(frame, 0.0))
        self._reveal()

    def go_on(self, way: int) -> None:
        """Frames back or on."""
        self.go(self._workspace.timing.frame + way)

    def _reveal(self) -> None:
        self.strip.set_scale(self.strip.scale.revealing(self._workspace.timing.frame))

    def _follow_frame(self) -> None:
        if self.playing.on:
            timing, scale = self._workspace.timing, self.strip.scale
            if not scale.first <= timing.frame <= scale.last:
                self._reveal()

    def _on_review(self) -> None:
        sequence = self._workspace.review.sequence is not None
        if sequence:
            self.playing.stop()
        if self._upright is None or sequence == (self.currentWidget() is self.frame_strip):
            return
        total, tall = sum(self._upright.sizes()), self.height()
        self.setCurrentWidget(self.frame_strip if sequence else self.strip)
        low = self.frame_strip.height() if sequence else self.strip.minimumHeight()
        self.setMinimumHeight(low)
        self.setMaximumHeight(low if sequence else TALLEST)
        now = low if sequence else self._strip_height
        self._upright.setSizes([total - now, now])
        self._strip_height = tall
