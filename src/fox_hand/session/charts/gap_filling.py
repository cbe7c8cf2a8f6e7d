"""Filling the gaps of a chart: a slot is posed and captured, or many on frames of their own."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from psygnal import Signal

from fox_hand.base.language import tr, tr_n
from fox_hand.core.animation.curves import channel_ids_of, keys_at
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.model.controls import FACE_REGIONS, Region, Side
from fox_hand.core.rig.rig import Rig
from fox_hand.library.charts.chart import Slot
from fox_hand.library.charts.filling import Filling
from fox_hand.library.index.query import REGION_WORDS
from fox_hand.session.capturing.capture_controller import CaptureController, CaptureState
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.charts.chart_board import ChartBoard
from fox_hand.session.charts.chart_book import ChartBook
from fox_hand.session.figures.cast import Cast
from fox_hand.session.figures.figure import ChangeStep, Figure
from fox_hand.session.figures.frame_name import FrameName
from fox_hand.session.figures.selection import Selection
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.runtime.history import History

Wanted = tuple[tuple[int, str], str, str]  # key of the chart, key of the slot, character
SIDES = {"left": Side.LEFT, "right": Side.RIGHT}


class GapFilling:
    """Goes from an empty slot to a card in it.

    Args:
        book: the charts.
        capturing: makes the cards.
        cast, selection, history: the stage's.
        open_libraries: where cards go.
        act: makes a figure the one that acts.
    """

    told = Signal(str)
    filled = Signal(object)  # Wanted that has its card now

    def __init__(
        self,
        book: ChartBook,
        capturing: CaptureController,
        cast: Cast,
        selection: Selection,
        history: History,
        open_libraries: OpenLibraries,
        act: Callable[[Figure], None],
    ) -> None:
        self._book, self._capturing, self._cast = book, capturing, cast
        self._selection, self._history = selection, history
        self._open_libraries, self._act = open_libraries, act
        self.wanted: Wanted | None = None
        self._draft: CaptureDraft | None = None
        self._saving = False
        self._usual: int | None = None  # the library new cards go to else
        self._frames: dict[Figure, dict[int, Wanted]] = {}
        self._coming: dict[Path, Wanted | None] = {}  # captured, not listed yet
        capturing.saved.connect(self._saved)
        open_libraries.changed.connect(self._take_in)
        capturing.changed.connect(self._draft_changed)
        capturing.state_changed.connect(self._state_changed)
        capturing.frame_names = self.frame_names

    # -- one ------------------------------------------------------------------------------

    def figure_of(self, character: str) -> Figure | None:
        """Who of that name is on the stage; whoever acts first."""
        actors = sorted(self._cast.actors, key=lambda f: f is not self._cast.acting)
        same = (f for f in actors if f.rig.name.casefold() == character.casefold())
        return next(same, None)

    def why_not(self, board: ChartBoard, one: Filling) -> str | None:
        """Why a slot cannot be posed now, as a sentence; None if it can."""
        figure = self.figure_of(one.character)
        if figure is None:
            return tr(
                "{character} is not on the stage. Put the character there first.",
                character=one.character,
            )
        if not rows_of(figure.rig, one.slot):
            return tr("{character} has nothing to pose there.", character=one.character)
        if not board.place.writable or not board.place.ready:
            return tr("{name} cannot be written by you now.", name=board.place.name)
        return None

    def begin(self, board: ChartBoard, one: Filling) -> bool:
        """Open a capture with everything filled in; false where it cannot be, which is told."""
        problem = self.why_not(board, one)
        if problem is not None:
            self.told.emit(problem)
            return False
        figure = self.figure_of(one.character)
        assert figure is not None
        self._act(figure)
        self._selection.set(rows_of(figure.rig, one.slot, side_of(board, one)))
        draft = self._capturing.begin()
        if draft is None:
            return False
        if self._usual is None:
            self._usual = self._open_libraries.target_number
        self._open_libraries.target_number = board.place.number  # until this capture is over
        draft.name, draft.sheet = one.slot.name, sheet_for(board, one)
        self._draft, self.wanted = draft, (board.key, one.slot.key, one.character)
        self._capturing.changed.emit()  # its words are others now
        return True

    def _draft_changed(self) -> None:
        now = self._capturing.draft
        left = now is None and not self._saving
        if self._draft is not None and (left or now not in (self._draft, None)):
            self._draft = self.wanted = None  # it was left, or another capture was begun
        if self._usual is not None and (now is None or now is not self._draft):
            self._open_libraries.target_number, self._usual = self._usual, None

    def _state_changed(self, state: CaptureState) -> None:
        if state is not CaptureState.NONE:  # which comes before the card is known to be written
            self._saving = state is CaptureState.SAVING

    def _saved(self, path: Path) -> None:
        wanted, self._draft, self.wanted = self.wanted, None, None
        self._saving = False
        if wanted is not None or self._frames:
            self._coming[path] = wanted
            self._take_in()

    def _take_in(self) -> None:
        """Charts are read when the library has listed what was captured: sooner they would be
        filled without it."""
        listed = [path for path in self._coming if self._open_libraries.lists(path)]
        filed = [(p, wanted) for p in listed if (wanted := self._coming.pop(p)) is not None]

        def file_all() -> None:
            for path, wanted in filed:
                self._file(path, wanted)

        if listed:
            self._book.read(file_all)

    def _file(self, path: Path, wanted: Wanted) -> None:
        """A card that is called otherwise than its slot is put into it."""
        key, slot, character = wanted
        board, entry = self._book.board(key), self._open_libraries.entry_at(path)
        if board is not None and entry is not None:
            one = board.filled.get((slot, character))
            there = [f.card.identity for f in one.cards] if one is not None else []
            if entry.identity not in there:
                self._book.assign(board, slot, character, entry)
        self.filled.emit(wanted)

    # -- many -----------------------------------------------------------------------------

    def frame_names(self, figure: Figure) -> Mapping[int, FrameName]:
        """What the frames that were laid for slots are called."""
        found = {}
        for frame, (key, slot, character) in self._frames.get(figure, {}).items():
            board = self._book.board(key)
            one = board.filled.get((slot, character)) if board is not None else None
            if board is not None and one is not None:
                found[frame] = FrameName(one.slot.name, sheet_for(board, one))
        return found

    def lay_frames(self, board: ChartBoard, gaps: Sequence[Filling]) -> int:
        """Lay a frame for each empty slot behind what is keyed already: held still, stepped,
        marked, in the order of the chart; one undo step.

        Args:
            board: the chart.
            gaps: of one character.

        Returns:
            how many; 0 where there is nobody to pose, which is told.
        """
        problem = self.why_not(board, gaps[0]) if gaps else tr("Nothing is missing.")
        figure = self.figure_of(gaps[0].character) if gaps else None
        if problem is not None or figure is None:
            self.told.emit(problem or "")
            return 0
        self._act(figure)
        timing, before = self._cast.timing, figure.take
        span = before.keys.span
        start = int(span[1]) + 1 if span is not None else timing.first
        rows = sorted({r for g in gaps for r in rows_of(figure.rig, g.slot, side_of(board, g))})
        ids = channel_ids_of(figure.rig, rows)
        keys, names = before.keys, dict[int, Wanted]()
        for number, one in enumerate(gaps):
            frame = start + number
            keys = keys.with_lines(keys_at(figure.rig, figure.rig.rest, ids, frame, Ease.STEP))
            names[frame] = board.key, one.slot.key, one.character
        after, last = before.with_keys(keys), start + len(gaps) - 1
        was = timing.first, timing.last, timing.marks, self._frames.get(figure, {})

        def forth() -> None:
            figure.perform(after)
            timing.set_range(was[0], max(was[1], last))
            timing.set_marks({*was[2], *names})
            self._frames[figure] = {**was[3], **names}

        def back() -> None:
            figure.perform(before)
            timing.set_range(was[0], was[1])
            timing.set_marks(was[2])
            self._frames[figure] = was[3]

        forth()
        self._history.push(
            ChangeStep(
                tr_n(
                    "{number} empty frame of {name}",
                    "{number} empty frames of {name}",
                    len(gaps),
                    name=board.chart.name,
                ),
                back,
                forth,
            )
        )
        self._selection.set(rows)
        self._cast.go(float(start))
        return len(gaps)


def side_of(board: ChartBoard, one: Filling) -> Side | None:
    """The side that is posed: the slot's own, else that of the card which shows it, so that hands
    are taken one by one where others took them so."""
    card = board.sample(one.slot, one.character)
    if one.slot.side or card is not None:
        return SIDES.get(one.slot.side or (card.side if card is not None else ""))
    sides = Counter(f.card.side for x in board.filled.values() for f in x.cards)
    return SIDES.get(sides.most_common(1)[0][0]) if sides else None


def rows_of(rig: Rig, slot: Slot, side: Side | None = None) -> list[int]:
    """Controls that a slot is about, of one side or both; of a slot without a region all."""
    regions = regions_of(slot)
    found = []
    for row, control in enumerate(rig.controls):
        mine = control.region in regions and not control.helper
        if mine and (side is None or control.side in (side, Side.CENTRE)):
            found.append(row)
    return found


def regions_of(slot: Slot) -> frozenset[Region]:
    """Regions that a slot is about. Settings of a mouth often hang on the head: a face is one."""
    if not slot.region:
        return frozenset(Region)
    wanted = REGION_WORDS[slot.region]
    return wanted | FACE_REGIONS if wanted & FACE_REGIONS else wanted


def sheet_for(board: ChartBoard, one: Filling) -> str:
    """Where a card for a slot goes: where most of the character's cards of this chart lie, else
    beside those of others under the character's own name."""
    own = [f.card.sheet for x in board.of(one.character) for f in x.cards if not f.lent]
    if own:
        return Counter(own).most_common(1)[0][0]
    others = [f.card for x in board.filled.values() for f in x.cards if not f.lent]
    for card in others:
        above, _, last = card.sheet.rpartition("/")
        if above.casefold() == card.character.casefold():
            return f"{one.character}/{last}"
    return f"{one.character}/{board.chart.name}"
