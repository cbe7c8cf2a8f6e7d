"""The part of the window that shows the shot: the strip, playing, in between, opening, saving."""

from __future__ import annotations

from abc import abstractmethod
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QInputDialog, QSplitter, QStackedWidget

from fox_hand.core.model.controls import Region
from fox_hand.library.format.entry import Entry
from fox_hand.library.store.pack import SUFFIX as PACK
from fox_hand.session.applying.application import Part
from fox_hand.session.shots.project import SHOTS
from fox_hand.session.shots.shot_file import SUFFIX
from fox_hand.ui.commands.actions import Actions
from fox_hand.ui.main.export_menu import ExportMenu
from fox_hand.ui.main.pose_home import PoseHome
from fox_hand.ui.main.shot_opening import ShotOpener
from fox_hand.ui.main.work_bar import WorkBar
from fox_hand.ui.picker.figure_panel import FigurePanel
from fox_hand.ui.services.picture_port import Drawing
from fox_hand.ui.stage.stage_bars import StageBars
from fox_hand.ui.timeline.between_bar import BetweenBar
from fox_hand.ui.timeline.clip_bar import ClipBar
from fox_hand.ui.timeline.frame_strip import FrameStrip
from fox_hand.ui.timeline.playing import Playing
from fox_hand.ui.timeline.strip import Strip
from fox_hand.ui.timeline.strip_tools import StripTools

FILTER = f"Shots (*{SUFFIX})"
TALLEST = 16_777_215  # pixels, Qt's own for no limit


class ShotHome(PoseHome):
    """Strip and shots."""

    figure_panel: FigurePanel
    bars: StageBars
    work_bar: WorkBar
    upright: QSplitter
    actions_table: Actions

    @abstractmethod
    def step(self, *, back: bool) -> None: ...

    @abstractmethod
    def show_finder(self) -> None: ...

    @abstractmethod
    def show_keys(self) -> None: ...

    @abstractmethod
    def ask_author(self) -> None: ...

    @abstractmethod
    def select_all(self) -> None: ...

    @abstractmethod
    def on_stage(self) -> bool: ...

    def build_strip(self) -> None:
        """The lower part of the window: the shot's strip, or the frames of a performance."""
        theme, workspace = self.theme, self.workspace
        self.strip = Strip(theme, workspace)
        self.tools = StripTools(theme, workspace, self.strip)
        self.reel_strip = FrameStrip(theme, workspace)
        self.frames = QStackedWidget()
        self.frames.addWidget(self.strip)
        self.frames.addWidget(self.reel_strip)
        self.frames.setMinimumHeight(self.strip.minimumHeight())
        self._strip_height = self.strip.minimumHeight()
        self.between = BetweenBar(theme, workspace, self.stage)
        self.lay_bar = ClipBar(theme, workspace, self.stage)
        self.playing = Playing(self, workspace, self.stage)
        self.take_out = ExportMenu(
            self, self.notice, self.work_bar, Drawing(self._services.pictures, self._services.jobs)
        )
        self.shot_opener = ShotOpener(self, workspace, self._services, self.opener, self.notice)
        self.demo_performance = self._services.demo.performance
        workspace.timing.work_with(auto=workspace.settings.auto_key)

    def connect_shots(self) -> None:
        """What the strip asks for."""
        workspace = self.workspace
        self.strip.play_asked.connect(self.playing.toggle)
        self.strip.card_dropped.connect(self.drop_on_strip)
        self.tools.between_asked.connect(self.between.begin)
        for part in (self.tools, self.lay_bar, self.mix_bar):
            part.told.connect(self.notice.tell)
        self.playing.switched.connect(self.tools.show_playing)
        self.playing.measured.connect(self.tools.show_rate)
        self.header.save_button.clicked.connect(self.save_shot)
        self.shot_opener.opened.connect(self._shot_opened)
        workspace.keying.told.connect(self.notice.tell)
        workspace.left_loose.connect(self._tell_loose)
        workspace.motion_changed.connect(self._on_motion)
        workspace.shots.changed.connect(self.show_where)
        workspace.timing.changed.connect(self._save_soon)
        workspace.timing.moved.connect(self._follow_frame)

    def _save_soon(self) -> None:
        raise NotImplementedError

    def _follow_frame(self) -> None:
        if self.playing.on:
            timing, scale = self.workspace.timing, self.strip.scale
            if not scale.first <= timing.frame <= scale.last:
                self.strip.set_scale(scale.revealing(timing.frame))

    def place_strip(self) -> None:
        """Frames line up under the stage."""
        width = self.figure_panel.width()
        self.strip.set_label_width(width)
        self.reel_strip.set_label_width(width)
        self.tools.set_width(width)
        self.between.place()
        self.lay_bar.place()

    def _on_motion(self) -> None:
        reel = self.workspace.motion is not None
        if reel:
            self.playing.stop()
        if reel == (self.frames.currentWidget() is self.reel_strip):
            return
        total, tall = sum(self.upright.sizes()), self.frames.height()
        self.frames.setCurrentWidget(self.reel_strip if reel else self.strip)
        low = self.reel_strip.height() if reel else self.strip.minimumHeight()
        self.frames.setMinimumHeight(low)
        self.frames.setMaximumHeight(low if reel else TALLEST)
        now = low if reel else self._strip_height
        self.upright.setSizes([total - now, now])
        self._strip_height = tall

    def take_clip(self, entry: Entry, *, alone: bool) -> None:
        """Write the motion of a clip card for another program."""
        self.take_out.clip(entry, alone=alone)

    def show_where(self) -> None:
        """Name the project and the shot, and whether it is saved."""
        shots, actor = self.workspace.shots, self.workspace.actor
        if shots.path is not None:
            project = shots.project.name if shots.project is not None else shots.path.parent.name
            self.header.set_project(project, shots.name)
            self.setWindowTitle(f"{shots.name}{' *' if shots.edited else ''} - Fox Hand")
        elif actor is not None:
            self.header.set_project("On the desk", actor.name)
            self.setWindowTitle(f"{actor.name} - Fox Hand")
        self.header.show_edited(shots.path is not None and shots.edited)

    # -- keys -----------------------------------------------------------------------------

    def escape_shot(self) -> bool:
        """Esc: stop playing, put a pose between back."""
        if self.playing.on:
            self.playing.stop()
        elif self.between.pose is not None:
            self.between.put_back()
        else:
            return False
        return True

    def go(self, frame: float) -> None:
        """Look at a frame, and see where it is."""
        self.workspace.go(max(frame, 0.0))
        self.strip.set_scale(self.strip.scale.revealing(self.workspace.timing.frame))

    def go_on(self, way: int) -> None:
        """A frame back or on."""
        self.go(self.workspace.timing.frame + way)

    def key_pose(self, *, everything: bool = False) -> None:
        """Set keys where we are."""
        self.workspace.keep_mix()
        self.workspace.keying.key(everything=everything)

    def mark_frame(self) -> None:
        """A frame worth capturing."""
        if self.workspace.motion is not None:
            self.reel_strip.toggle_mark()
        else:
            timing = self.workspace.timing
            timing.set_marks(timing.marks ^ {round(timing.frame)})

    def _tell_loose(self, names: str) -> None:
        self.notice.tell(
            f"What was changed on {names} was not keyed and stays behind. Undo, then redo, brings"
            " it back; K keys it."
        )

    # -- cards ----------------------------------------------------------------------------

    def drop_on_strip(self, key: int, frame: int, regions: frozenset[Region]) -> None:
        """A card was dropped on a row: it goes on at that frame, there, and sets keys."""
        entry = self.workspace.shelf.entry(key)
        if entry is None or self.workspace.actor is None:
            return
        self.go(float(frame))
        if entry.kind == "clip":
            self.putting.put_on(entry)
            return

        def laid() -> None:
            mix = self.workspace.mix
            if mix is None or self.workspace.timing.frame != frame:
                return
            mix.set_keyed(True)
            chosen = regions & frozenset(mix.regions)
            if chosen and chosen != frozenset(mix.regions):
                mix.set_part(Part.REGIONS, chosen)
            elif not chosen:
                mix.set_part(Part.ALL)

        self.putting.put_on(entry, laid)

    # -- clips ----------------------------------------------------------------------------

    def begin_clip(self) -> None:
        """Capture what moves between the selected keys, else in the whole shot."""
        problem = self.capturing.why_not()
        if problem is not None:
            self.notice.tell(problem)
            return
        timing, span = self.workspace.timing, self.strip.picked_span
        span = span or (float(timing.first), float(timing.last))
        if self.workspace.begin_clip(span) is None:
            self.notice.tell(
                f"Nothing moves between frames {span[0]:g} and {span[1]:g}. Select keys on the"
                " strip, or key something first."
            )

    # -- shots ----------------------------------------------------------------------------

    def save_shot(self) -> None:
        """Write the shot into its file."""
        self.workspace.keep_mix()
        shots = self.workspace.shots
        if shots.path is None:
            self.save_shot_as()
        else:
            shots.save(then=self._saved)

    def save_shot_as(self) -> None:
        """Into another file, which is the shot's own from then on."""
        if self.workspace.actor is None:
            self.notice.tell("There is nobody on the stage to save.")
            return
        shots = self.workspace.shots
        near = shots.path or self._shots_folder() / f"shot_010{SUFFIX}"
        name, _ = QFileDialog.getSaveFileName(self, "Save the shot as", str(near), FILTER)
        if name:
            path, shots.who = Path(name), self.workspace.settings.author
            shots.save(
                path if path.suffix == SUFFIX else path.with_name(path.name + SUFFIX), self._saved
            )

    def _saved(self, path: Path) -> None:
        self.shot_opener.remember(path)
        self.notice.tell(f"{path.name} is saved.")

    def _shots_folder(self) -> Path:
        project = self.workspace.shots.project
        return project.folder / SHOTS if project is not None else Path.home()

    def open_file(self, path: Path) -> None:
        """A shot, a pack, or a character for this shot."""
        if path.suffix == SUFFIX:
            self.shot_opener.open(path)
        elif path.suffix == PACK:
            self.take_out.open_pack(path)
        else:
            self.opener.open_rig(path)

    def ask_for_shot(self) -> None:
        """Choose a shot to open."""
        name, _ = QFileDialog.getOpenFileName(
            self, "Open a shot", str(self._shots_folder()), f"{FILTER};;All files (*)"
        )
        if name:
            self.shot_opener.open(Path(name))

    def ask_for_project(self) -> None:
        """Choose a project; its first shot opens."""
        folder = QFileDialog.getExistingDirectory(self, "Open a project")
        if folder:
            self.shot_opener.open_project(Path(folder))

    def ask_new_project(self) -> None:
        """Make a folder a project."""
        folder = QFileDialog.getExistingDirectory(self, "The folder of the new project")
        if folder:
            name, given = QInputDialog.getText(self, "New project", "Name", text=Path(folder).name)
            if given and name.strip():
                self.shot_opener.make_project(Path(folder), name.strip())

    def ask_new_shot(self) -> None:
        """A shot with the cast as it stands, and no keys."""
        shots = self.workspace.shots
        if shots.project is None:
            self.save_shot_as()
            return
        name, given = QInputDialog.getText(self, "New shot", "Name", text=f"{shots.name}_new")
        if given and name.strip():
            self.shot_opener.make_shot(name.strip())

    def _shot_opened(self) -> None:
        self.between.put_back()
        self.strip.set_scroll(0)
        self.strip.show_range()
        self.show_where()
