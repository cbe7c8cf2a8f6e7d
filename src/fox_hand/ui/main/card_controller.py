"""What people do with cards and libraries, from the window to the session."""

from __future__ import annotations

from collections.abc import Callable, Collection
from pathlib import Path

from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.model.controls import Region
from fox_hand.core.pose.similarity import Numbers
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.alike import numbers_of
from fox_hand.library.index.query import BODY, FACE
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.capturing.batch import MarkedFrames
from fox_hand.session.capturing.capture_controller import CaptureState
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.capturing.reshooting import PictureChange
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.session.runtime.listed_read import ListedRead
from fox_hand.ui.apply.pose_clipboard import PoseClipboard
from fox_hand.ui.browser.sheets_panel import SheetsPanel
from fox_hand.ui.capture.batch_popup import BatchPopup
from fox_hand.ui.capture.capture_frame import CaptureFrame
from fox_hand.ui.capture.capture_panel import CapturePanel
from fox_hand.ui.capture.own_pictures import OwnPictures
from fox_hand.ui.capture.reshoot_popup import FEW, ReshootPopup
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.notice import Notice

MOST_ALIKE = 60  # cards shown as like a pose
PARTS_OF_BODY = (("body", BODY), ("face", FACE), ("hands", frozenset({Region.HANDS})))
LEAST_ALIKE = 0.3  # of it; less has only the same controls


class CardController:
    """Captures, brings what was stored into sight, looks after what the shelf holds.

    Args:
        theme, workspace, jobs: what it works with.
        sheets, capture, frame, notice: the window's.
    """

    def __init__(
        self,
        theme: Theme,
        workspace: Workspace,
        jobs: JobRunner,
        sheets: SheetsPanel,
        capture: CapturePanel,
        frame: CaptureFrame,
        notice: Notice,
    ) -> None:
        self._theme, self._workspace, self._jobs = theme, workspace, jobs
        self._sheets, self._capture, self._frame, self._notice = sheets, capture, frame, notice
        self._alike_asked: object = None  # of several questions only the last one counts
        self._asked: CaptureDraft | None = None  # whose marked frames are being looked through
        sheets.capture.connect(workspace.capturing.ask)
        sheets.failed.connect(notice.tell_error)
        capture.save_asked.connect(self.save_capture)
        capture.batch_asked.connect(self._ask_batch)
        self.own_pictures = OwnPictures(
            theme, workspace, workspace.card_commands, jobs, notice, sheets.foot
        )
        capture.form.picture_asked.connect(self._ask_picture)
        sheets.drop.picture_dropped.connect(self.own_pictures.take)
        self.clipboard = PoseClipboard(workspace, jobs, notice)
        capturing = workspace.capturing
        capturing.told.connect(notice.tell)
        capturing.state_changed.connect(self._show_state)
        capturing.saved.connect(sheets.bring_into_sight)
        workspace.storing.told.connect(notice.tell)

    # -- capturing ------------------------------------------------------------------------

    def save_capture(self) -> None:
        """Write the card that is being captured; Enter and the button come here."""
        self._workspace.capturing.save(self._frame.camera())

    def _show_state(self, state: CaptureState) -> None:
        self._capture.set_saving(state is CaptureState.SAVING)

    def _ask_batch(self) -> None:
        """Take all marked frames at once, after they were looked through."""
        capturing = self._workspace.capturing
        draft, sequence = capturing.draft, capturing.marked
        if draft is None or sequence is None or self._asked is draft:
            return
        self._asked = draft
        draft.frame = self._frame.camera()

        def work(progress: Progress) -> MarkedFrames:
            progress.step(0.0)
            return MarkedFrames(draft, sequence)

        def done(frames: MarkedFrames) -> None:
            self._asked = None
            if capturing.draft is draft:
                popup = BatchPopup(self._theme, self._capture.window(), frames)
                popup.taken.connect(capturing.save_marked)
                popup.open_above(self._capture.batch)

        def failed(error: Exception) -> None:
            self._asked = None
            self._notice.tell_error(error)

        def stopped() -> None:
            self._asked = None

        label = tr("Look through the marked frames")
        long_work = self._workspace.long_work
        ListedRead(long_work, self._jobs, label, work, done, failed, stopped=stopped)

    def store_mix(self) -> None:
        """Keep what is being put on, and capture exactly what it touches."""
        mix = self._workspace.mix
        if mix is not None:
            self._workspace.capturing.ask_of(mix)

    def store_over(self, entry: Entry) -> None:
        """Begin a capture that replaces a card, of what that card holds."""
        if self._workspace.mix is None and not self._workspace.selection.rows:
            self.select_card(entry)
        self._workspace.capturing.begin(entry)

    def retake(self, entry: Entry) -> None:
        """Take only the picture of a card again."""
        actor = self._workspace.actor

        def work(progress: Progress) -> Card:
            progress.step(0.0)
            return read_card(entry.path)[0]

        def done(card: Card) -> None:
            if self._workspace.actor is actor:
                self._workspace.capturing.begin_retake(entry, card)

        self._jobs.run(work, done, self._notice.tell_error)

    def _ask_picture(self, path: Path | None) -> None:
        if path is None:
            self.own_pictures.choose(None)
        else:
            self.own_pictures.take(path, None)

    def ask_reshoot(self, entries: list[Entry]) -> None:
        """Take the pictures of many cards again, after a few were shown before and after."""
        actor, window = self._workspace.actor, self._sheets.window()
        reshoots = self._workspace.capturing.reshoots
        if actor is None:
            return

        def work(progress: Progress) -> list[PictureChange]:
            found = []
            for number, entry in enumerate(entries[:FEW]):
                progress.step(number / FEW, entry.name)
                found.append(reshoots.preview(actor, entry))
            return found

        def done(previews: list[PictureChange]) -> None:
            if self._workspace.actor is not actor:
                return
            popup = ReshootPopup(self._theme, window, len(entries), previews, actor.name)
            popup.agreed.connect(lambda: reshoots.take(entries))
            popup.open_above(self._sheets.foot)

        label, failed = tr("New pictures of some cards"), self._notice.tell_error
        ListedRead(self._workspace.long_work, self._jobs, label, work, done, failed)

    # -- cards ----------------------------------------------------------------------------

    def select_card(self, entry: Entry) -> None:
        """Select what a card holds."""
        actor = self._workspace.actor
        if actor is None:
            return
        names = self._workspace.open_libraries.place_of(entry).controls_of(entry.shape)
        rows = [actor.rig.control_row[n] for n in names if n in actor.rig.control_row]
        self._workspace.selection.set(rows)

    def show_alike(
        self, entry: Entry | None = None, regions: Collection[Region] = (), where: str = ""
    ) -> None:
        """Cards like a card, or like the figure as it stands.

        Args:
            entry: the card; None for the figure.
            regions: what counts; none for all that either holds, of the figure what is selected.
            where: the regions in a word.
        """
        workspace, actor = self._workspace, self._workspace.actor
        if entry is None and actor is None:
            return
        name = entry.name if entry is not None else tr("the figure")
        name = f"{name}, {where}" if where else name
        only = self._counting(entry, regions)
        asked, numbers = object(), self._numbers_of(entry)
        own = workspace.open_libraries.key_in(entry) if entry is not None else None
        self._alike_asked = asked

        def work(progress: Progress) -> list[tuple[int, float]]:
            progress.step(0.0)
            found = workspace.open_libraries.alike(numbers(), MOST_ALIKE, only)
            return [(key, share) for key, share in found if share >= LEAST_ALIKE and key != own]

        def done(found: list[tuple[int, float]]) -> None:
            if self._alike_asked is not asked:
                return
            if found:
                self._sheets.show_alike(name, found)
            else:
                self._notice.tell(tr("No other card is like {name}.", name=name))

        self._jobs.run(work, done, self._notice.tell_error)

    def _counting(self, entry: Entry | None, regions: Collection[Region]) -> frozenset[str]:
        """Names of the controls of some regions, or of those selected on the figure, with their
        settings."""
        actor, selection = self._workspace.actor, self._workspace.selection
        if actor is None:
            return frozenset()
        rig = actor.rig
        rows = [row for row, control in enumerate(rig.controls) if control.region in regions]
        if entry is None:
            rows = list(selection.rows)
        held = [rig.settings[s].name for row in rows for s in rig.settings_of[row]]
        return frozenset([*(rig.controls[row].name for row in rows), *held])

    def parts_of(self, entry: Entry) -> list[tuple[str, frozenset[Region]]]:
        """The parts of the body that a card holds anything of, each with a word."""
        actor = self._workspace.actor
        if actor is None:
            return []
        rig, place = actor.rig, self._workspace.open_libraries.place_of(entry)
        names = place.controls_of(entry.shape)
        found = {rig.controls[rig.control_row[n]].region for n in names if n in rig.control_row}
        return [(word, regions) for word, regions in PARTS_OF_BODY if regions & found]

    def _numbers_of(self, entry: Entry | None) -> Callable[[], Numbers]:
        """What to look for, read in a job where it is a card's."""
        if entry is None:
            pose = self._workspace.figure_pose()
            return lambda: numbers_of(pose)

        def of_card() -> Numbers:
            card = read_card(entry.path)[0]
            return numbers_of(card.pose, card.clip)

        return of_card

    def drop(self, keys: list[int]) -> None:
        """A card was dropped on the figure: it goes on, or beside what is on."""
        entry = self._workspace.open_libraries.entry(keys[0])
        if entry is None:
            return
        applying = self._workspace.applying
        (applying.put_on if self._workspace.mix is None else applying.add)(entry)

    # -- libraries ------------------------------------------------------------------------

    def bring_in(self, files: list[Path]) -> None:
        """Card files from elsewhere go where new cards go."""
        target = self._workspace.open_libraries.target
        if files and target is not None:
            self._workspace.card_commands.bring_in(files, target, "")

    def set_target(self, place: OpenLibrary) -> None:
        """Where new cards go."""
        self._workspace.open_libraries.target_number = place.number
        self._workspace.settings.target = str(place.folder)

    def forget_library(self, place: OpenLibrary) -> None:
        """Take a library off the shelf; its files stay."""
        libraries = self._workspace.settings.libraries
        self._workspace.settings.libraries = [p for p in libraries if p != str(place.folder)]
        if self._sheets.request.only == place.number:
            self._sheets.set_library(None)
        self._workspace.open_libraries.forget(place)
        self._notice.tell(
            tr("{name} is not open any more. Its files are as they were.", name=place.name)
        )
