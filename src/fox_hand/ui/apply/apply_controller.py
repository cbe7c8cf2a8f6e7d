"""Cards on the figure: put on, added, looked at, once more, from the number keys."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent

from fox_hand.base.work import Progress
from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.curves import Origin
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.name_map import NameMap
from fox_hand.session.animating.clips import clip_for
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.applying.mix import Mixed
from fox_hand.ui.services.services import Services

RESTS = 450  # milliseconds until a pointer that rests on a card looks at it
SLOTS = 9
KEYPAD = Qt.KeyboardModifier.KeypadModifier


class ApplyController(QObject):
    """Reads cards beside the window; of several asked for quickly only the last counts.

    Args:
        parent: the window.
        workspace, services: where cards go, and where they are read.
    """

    told = Signal(str)
    failed = Signal(object)

    def __init__(self, parent: QObject, workspace: Workspace, services: Services) -> None:
        super().__init__(parent)
        self._workspace, self._services = workspace, services
        self._wanted: Entry | None = None
        self._pointed: Entry | None = None
        self._looks = 0  # goes up with every end of a look
        self._held = False  # whether the key for looking is down
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(RESTS)
        self._rest.timeout.connect(self._rested)

    def _ready(self, entry: Entry, then: Callable[[Mixed], object]) -> None:
        """Read a card and fit it to the one who acts; of several only the last counts."""
        actor, fits = self._workspace.actor, self._workspace.mix_commands.fits
        assert actor is not None
        self._wanted = entry

        def work(progress: Progress) -> Mixed:
            progress.step(0.0)
            return fits.ready(entry, None, actor)

        def done(ready: Mixed) -> None:
            if (
                self._wanted is entry
                and self._workspace.draft is None
                and self._workspace.actor is actor
            ):
                then(ready)

        self._services.jobs.run(work, done, self.failed.emit)

    def _refused(self) -> bool:
        """Whether no card can go on now; why is told."""
        if self._workspace.actor is None:
            self.told.emit("There is no figure on the stage to put it on. Open one first.")
        elif self._workspace.draft is not None:
            self.told.emit("Finish the capture first: Enter keeps the card, Esc leaves it.")
        return self._workspace.actor is None or self._workspace.draft is not None

    # -- on -------------------------------------------------------------------------------

    def put_on(self, entry: Entry, then: Callable[[], object] | None = None) -> None:
        """Put a card on; one that is on goes to 100 %. ``then`` follows when it is on."""
        workspace = self._workspace
        if self._refused():
            return
        self._away()
        if entry.kind == "clip":
            self.lay_in(entry, then)
            return
        mix = workspace.mix
        if mix is not None and len(mix.cards) == 1 and mix.entry.path == entry.path:
            mix.set_amount(1.0)
            if then is not None:
                then()
            return

        def lay(ready: Mixed) -> None:
            workspace.mix_commands.lay_on(ready)
            if then is not None:
                then()

        self._ready(entry, lay)

    def lay_in(
        self,
        entry: Entry,
        then: Callable[[], object] | None = None,
        told: NameMap | None = None,
    ) -> None:
        """Lay a clip in at the frame in sight.

        Args:
            entry: its card.
            then: follows when it is there.
            told: what was just said about its names and those of who acts.
        """
        workspace, actor = self._workspace, self._workspace.actor
        assert actor is not None
        self._wanted = entry

        def work(progress: Progress) -> tuple[Clip, Origin]:
            progress.step(0.0)
            card = read_card(entry.path)[0]
            origin = Origin(card.identity, card.name, card.revision)
            return clip_for(entry, card, actor, workspace.mix_commands.fits, told), origin

        def done(ready: tuple[Clip, Origin]) -> None:
            if self._wanted is entry and workspace.draft is None and workspace.actor is actor:
                workspace.keep_mix()
                workspace.placements.begin(*ready)
                workspace.shelf.personal.put_on(entry.identity)
                if then is not None:
                    then()

        self._services.jobs.run(work, done, self.failed.emit)

    def add(self, entry: Entry) -> None:
        """Add a card to what is being put on, or take it out of it."""
        workspace = self._workspace
        if self._refused():
            return
        if entry.kind == "clip":
            self.told.emit("A clip is laid in by itself; it cannot be mixed with poses.")
            return
        if workspace.mix is not None and workspace.mix.weight_of(entry) is not None:
            workspace.mix_commands.drop(entry)
            return
        self._ready(entry, workspace.mix_commands.lay_beside)

    def again(self) -> None:
        """What was put on last, once more."""
        if not self._refused() and self._workspace.mix_commands.again() is None:
            self.told.emit("Nothing has been put on yet.")

    def recent(self, number: int) -> None:
        """The card that was put on last, the one before, and so on from 0."""
        known = self._workspace.shelf.personal.recent
        entry = self._found(known[number]) if number < len(known) else None
        if entry is not None:
            self.put_on(entry)
        else:
            self.told.emit(f"Fewer than {number + 1} cards have been put on so far.")

    def key(self, event: QKeyEvent, current: Entry | None) -> bool:
        """Keys that put cards on: digits, with Ctrl to lay a card there, with Alt for the last
        ones; P for again, V to look as long as it is held. Whether it was one of them.

        Args:
            current: the card with the keyboard.
        """
        number = event.key() - Qt.Key.Key_1
        plain = event.modifiers() in (Qt.KeyboardModifier.NoModifier, KEYPAD)
        if 0 <= number < SLOTS and plain:
            self.press(number)
        elif 0 <= number < SLOTS and event.modifiers() == Qt.KeyboardModifier.AltModifier:
            self.recent(number)
        elif 0 <= number < SLOTS and event.modifiers() == Qt.KeyboardModifier.ControlModifier:
            if current is not None:
                self.take_in_hand(number, current)
        elif event.key() == Qt.Key.Key_P and plain:
            self.again()
        elif event.key() == Qt.Key.Key_V and plain:
            if not event.isAutoRepeat():
                self.hold(True, current)
        else:
            return False
        return True

    # -- at hand --------------------------------------------------------------------------

    @property
    def at_hand(self) -> list[Entry | None]:
        """Cards on the number keys, which belong to the shot."""
        return [self._found(identity) for identity in self._workspace.shots.at_hand[:SLOTS]]

    def take_in_hand(self, number: int, entry: Entry | None) -> None:
        """Lay a card on a number key from 0 on; None clears it."""
        shots = self._workspace.shots
        kept = [*shots.at_hand, *[""] * SLOTS][:SLOTS]
        if entry is not None:
            kept = ["" if identity == entry.identity else identity for identity in kept]
        kept[number] = entry.identity if entry is not None else ""
        shots.hold(kept)
        shots.write_down()

    def press(self, number: int) -> None:
        """Put on the card of a number key."""
        held = self.at_hand
        entry = held[number] if number < len(held) else None
        if entry is not None:
            self.put_on(entry)
        else:
            self.told.emit(
                f"No card lies on {number + 1}. Ctrl+{number + 1} lays the current card there."
            )

    def _found(self, identity: str) -> Entry | None:
        return self._workspace.shelf.by_identity(identity)

    # -- looking --------------------------------------------------------------------------

    def point_at(self, entry: Entry | None) -> None:
        """The pointer is over a card, or the keys have gone to it; None where neither is."""
        self._pointed = entry
        self._away()
        if entry is not None and self._held:
            self._look(entry)
        elif entry is not None:
            self._rest.start()

    def hold(self, down: bool, entry: Entry | None = None) -> None:
        """The key for looking went down or up; ``entry`` where no pointer is over a card."""
        self._held = down
        self._away()
        seen = self._pointed or entry
        if down and seen is not None:
            self._look(seen)

    def _away(self) -> None:
        """Nothing is looked at, nor will what is being read for it be."""
        self._rest.stop()
        self._looks += 1
        self._workspace.mix_commands.look_away()

    def _rested(self) -> None:
        if self._pointed is not None:
            self._look(self._pointed)

    def _look(self, entry: Entry) -> None:
        workspace, number = self._workspace, self._looks
        if (
            not entry.readable
            or entry.kind == "clip"
            or workspace.draft is not None
            or workspace.actor is None
        ):
            return

        actor, fits = workspace.actor, workspace.mix_commands.fits

        def work(progress: Progress) -> Mixed:
            progress.step(0.0)
            return fits.ready(entry, None, actor)

        def done(ready: Mixed) -> None:
            if number == self._looks and workspace.actor is actor:
                workspace.mix_commands.look_at(ready)

        # what is wrong with a card it says itself, and where nothing lands there is nothing to see
        self._services.jobs.run(work, done, lambda _: None)
