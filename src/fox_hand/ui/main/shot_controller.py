"""What people do with the shot: saved, opened, keyed, taken out, named in the header."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QInputDialog, QWidget

from fox_hand.base.language import tr
from fox_hand.core.model.controls import Region
from fox_hand.library.format.entry import Entry
from fox_hand.library.store.pack import SUFFIX as PACK
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.applying.application import Part
from fox_hand.session.shots.project import SHOTS
from fox_hand.session.shots.shot_file import SUFFIX
from fox_hand.ui.exchange.export_menu import ExportMenu
from fox_hand.ui.exchange.opening import Opener
from fox_hand.ui.exchange.shot_opening import ShotOpener
from fox_hand.ui.main.header import Header
from fox_hand.ui.main.timeline_area import TimelineArea
from fox_hand.ui.widgets.notice import Notice

FILTER = tr("Shots (*{suffix})", suffix=SUFFIX)


class ShotController:
    """Saves and opens shots, keys poses and cards.

    Args:
        window: parent of dialogs, named after the shot.
        workspace: whose shot it is.
        timeline, header, notice: the window's.
        opener, shot_opener, export: bring in and take out.
    """

    def __init__(
        self,
        window: QWidget,
        workspace: Workspace,
        timeline: TimelineArea,
        header: Header,
        notice: Notice,
        opener: Opener,
        shot_opener: ShotOpener,
        export: ExportMenu,
    ) -> None:
        self._window, self._workspace, self._timeline = window, workspace, timeline
        self._header, self._notice = header, notice
        self._opener, self._shot_opener, self._export = opener, shot_opener, export
        timeline.strip.card_dropped.connect(self.drop_card)
        timeline.tools.told.connect(notice.tell)
        header.save_button.clicked.connect(self.save)
        shot_opener.opened.connect(timeline.show_shot)
        shot_opener.opened.connect(self.show_where)
        workspace.keying.told.connect(notice.tell)
        workspace.card_updates.told.connect(notice.tell)
        workspace.left_loose.connect(self._tell_loose)
        workspace.shots.changed.connect(self.show_where)
        workspace.linking.changed.connect(self.show_where)

    def show_where(self) -> None:
        """Name the project and the shot, and whether it is saved."""
        shots, actor = self._workspace.shots, self._workspace.actor
        link = self._workspace.linking.link
        if link is not None and link.host is not None and self._workspace.linking.stands:
            self._header.set_project(link.name, link.host.scene)
            self._window.setWindowTitle(tr("{name} - Fox Hand", name=link.name))
        elif shots.path is not None:
            project = shots.project.name if shots.project is not None else shots.path.parent.name
            self._header.set_project(project, shots.name)
            self._window.setWindowTitle(
                tr("{name}{rest} - Fox Hand", name=shots.name, rest=" *" if shots.edited else "")
            )
        elif actor is not None:
            self._header.set_project(tr("On the desk"), actor.name)
            self._window.setWindowTitle(tr("{name} - Fox Hand", name=actor.name))
        self._header.show_edited(shots.path is not None and shots.edited)

    # -- keys -----------------------------------------------------------------------------

    def key_pose(self, *, everything: bool = False) -> None:
        """Set keys where we are."""
        self._workspace.keep_mix()
        self._workspace.keying.key(everything=everything)

    def mark_frame(self) -> None:
        """A frame worth capturing."""
        if self._workspace.review.sequence is not None:
            self._timeline.frame_strip.toggle_mark()
        else:
            timing = self._workspace.timing
            self._workspace.shot_settings.set_marks(timing.marks ^ {round(timing.frame)})

    def capture_clip(self, *, over: Entry | None = None) -> None:
        """Capture what moves between the selected keys, else in the whole shot; perhaps over a
        card."""
        timing, span = self._workspace.timing, self._timeline.strip.picked_span
        whole = float(timing.first), float(timing.last)
        self._workspace.capturing.ask_clip(span or whole, over)

    def _tell_loose(self, names: str) -> None:
        self._notice.tell(
            tr(
                "What was changed on {names} was not keyed and stays behind. Undo, "
                "then redo, brings it back; K keys it.",
                names=names,
            )
        )

    def drop_card(self, key: int, frame: int, regions: frozenset[Region]) -> None:
        """A card was dropped on a row: it goes on at that frame, there, and sets keys."""
        entry = self._workspace.open_libraries.entry(key)
        if entry is None or self._workspace.actor is None:
            return
        self._timeline.go(float(frame))
        if entry.kind == "clip":
            self._workspace.applying.put_on(entry)
            return

        def laid() -> None:
            mix = self._workspace.mix
            if mix is None or self._workspace.timing.frame != frame:
                return
            mix.set_keyed(True)
            chosen = regions & frozenset(mix.regions)
            if chosen and chosen != frozenset(mix.regions):
                mix.set_part(Part.REGIONS, chosen)
            elif not chosen:
                mix.set_part(Part.ALL)

        self._workspace.applying.put_on(entry, laid)

    def take_clip(self, entry: Entry, *, alone: bool) -> None:
        """Write the motion of a clip card for another program."""
        self._export.clip(entry, alone=alone)

    # -- files ----------------------------------------------------------------------------

    def save(self) -> None:
        """Write the shot into its file."""
        if self._is_host():
            return
        self._workspace.keep_mix()
        shots = self._workspace.shots
        if shots.path is None:
            self.save_as()
        else:
            shots.save(then=self._saved)

    def _is_host(self) -> bool:
        """Whether the stage is another program's scene, which is saved there; then it is said."""
        linking = self._workspace.linking
        if linking.stands and linking.link is not None:
            name = linking.link.name
            self._notice.tell(tr("This is a scene of {name}: save it there.", name=name))
        return linking.stands

    def save_as(self) -> None:
        """Into another file, which is the shot's own from then on."""
        if self._is_host():
            return
        if self._workspace.actor is None:
            self._notice.tell(tr("There is nobody on the stage to save."))
            return
        shots = self._workspace.shots
        near = shots.path or self._folder() / f"shot_010{SUFFIX}"
        name, _ = QFileDialog.getSaveFileName(
            self._window, tr("Save the shot as"), str(near), FILTER
        )
        if name:
            path, shots.who = Path(name), self._workspace.settings.author
            shots.save(
                path if path.suffix == SUFFIX else path.with_name(path.name + SUFFIX), self._saved
            )

    def _saved(self, path: Path) -> None:
        self._shot_opener.remember(path)
        self._notice.tell(tr("{name} is saved.", name=path.name))

    def _folder(self) -> Path:
        project = self._workspace.shots.project
        return project.folder / SHOTS if project is not None else Path.home()

    def open_file(self, path: Path) -> None:
        """A shot, a pack, or a character for this shot."""
        if path.suffix == SUFFIX:
            self._shot_opener.open(path)
        elif path.suffix == PACK:
            self._export.open_pack(path)
        else:
            self._opener.open_rig(path)

    def ask_for_shot(self) -> None:
        """Choose a shot to open."""
        name, _ = QFileDialog.getOpenFileName(
            self._window,
            tr("Open a shot"),
            str(self._folder()),
            tr("{filter};;All files (*)", filter=FILTER),
        )
        if name:
            self._shot_opener.open(Path(name))

    def ask_for_project(self) -> None:
        """Choose a project; its first shot opens."""
        folder = QFileDialog.getExistingDirectory(self._window, tr("Open a project"))
        if folder:
            self._shot_opener.open_project(Path(folder))

    def ask_new_project(self) -> None:
        """Make a folder a project."""
        folder = QFileDialog.getExistingDirectory(self._window, tr("The folder of the new project"))
        if folder:
            name, given = QInputDialog.getText(
                self._window, tr("New project"), tr("Name"), text=Path(folder).name
            )
            if given and name.strip():
                self._shot_opener.make_project(Path(folder), name.strip())

    def ask_new_shot(self) -> None:
        """A shot with the cast as it stands, and no keys."""
        shots = self._workspace.shots
        if shots.project is None:
            self.save_as()
            return
        name, given = QInputDialog.getText(
            self._window, tr("New shot"), tr("Name"), text=f"{shots.name}_new"
        )
        if given and name.strip():
            self._shot_opener.make_shot(name.strip())
