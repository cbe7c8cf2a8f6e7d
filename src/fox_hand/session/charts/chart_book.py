"""All charts of the open libraries, read and filled beside the window; and what is done to them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path

import msgspec
from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.library.charts import chart_moves
from fox_hand.library.charts.chart import SUFFIX, Assigned, Chart, Slot, alike_name
from fox_hand.library.charts.chart_file import ChartFile, read_charts
from fox_hand.library.charts.sample_pictures import cut, give_pictures
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.query import REGION_WORDS
from fox_hand.library.store.moves import Done
from fox_hand.library.store.store import Library
from fox_hand.session.charts.chart_board import ChartBoard, board_of
from fox_hand.session.charts.likely_cards import likely_cards
from fox_hand.session.figures.cast import Cast
from fox_hand.session.libraries.file_jobs import FileJobs, Outcome
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.open_library import OpenLibrary

Then = Callable[[Outcome], None]


@dataclass(frozen=True, eq=False)
class ChartsRead:
    """What a reading gave.

    Args:
        boards: every chart with what fills it, library by library.
        wrong: about charts that cannot be read.
        cards, present: what they were filled from, and who was on the stage.
    """

    boards: tuple[ChartBoard, ...] = ()
    wrong: tuple[FoxHandError, ...] = ()
    cards: tuple[Entry, ...] = ()
    present: tuple[str, ...] = ()


class ChartBook:
    """Every change is one undo step.

    Args:
        open_libraries: where charts and cards are.
        file_jobs: writes charts.
        cast: who is on the stage.
    """

    changed = Signal()
    failed = Signal(Exception)

    def __init__(self, open_libraries: OpenLibraries, file_jobs: FileJobs, cast: Cast) -> None:
        self._open_libraries, self._file_jobs, self._cast = open_libraries, file_jobs, cast
        self._asked = 0
        self._then: list[Callable[[], None]] = []
        self.found = ChartsRead()
        file_jobs.touched.connect(self._on_touched)

    # -- reading --------------------------------------------------------------------------

    @property
    def boards(self) -> tuple[ChartBoard, ...]:
        """Every chart as it was last read."""
        return self.found.boards

    def board(self, key: tuple[int, str]) -> ChartBoard | None:
        """The chart with a key; None where it is gone."""
        return next((one for one in self.boards if one.key == key), None)

    def need(self) -> None:
        """Read them if nobody has asked yet."""
        if not self._asked:
            self.read()

    def read(self, then: Callable[[], None] | None = None) -> None:
        """Read all charts and decide what fills them, in a job; only the last asking counts. What
        looks like an empty slot comes a little later."""
        self._asked += 1
        self._then += [then] if then is not None else []
        number, before = self._asked, self.found
        places = [place for place in self._open_libraries.places if place.reading is not None]
        present = [figure.rig.name for figure in self._cast.actors]
        jobs = self._open_libraries.jobs

        def show(found: ChartsRead) -> None:
            if number != self._asked:
                return
            self.found = found
            self.changed.emit()
            waiting, self._then = self._then, []
            for one in waiting:  # of earlier askings, too: this one knows what they asked for
                one()
            if any(board.missing() for board in found.boards):
                jobs.run(lambda token: with_likely(found, token), show_likely, self.failed.emit)

        def show_likely(found: ChartsRead) -> None:
            if number == self._asked:
                self.found = found
                self.changed.emit()

        jobs.run(lambda token: read_all(places, present, token, before), show, self.failed.emit)

    # -- charts ---------------------------------------------------------------------------

    def add(self, place: OpenLibrary, chart: Chart, text: str = "", key: str = "") -> None:
        """Put a chart into a library."""
        self._do(
            tr("Chart {name}", name=chart.name),
            place,
            lambda library: chart_moves.add(library, chart, text, key),
        )

    def take_away(self, board: ChartBoard) -> None:
        """Remove a chart; its cards stay."""
        path = board.file.path
        label = tr("Remove {name}", name=board.chart.name)
        self._do(label, board.place, lambda library: chart_moves.take_away(library, path))

    def change(self, board: ChartBoard, label: str, how: Callable[[Chart], Chart]) -> None:
        """Another name, other slots."""
        path = board.file.path
        self._do(label, board.place, lambda library: chart_moves.change(library, path, how))

    def set_slot(self, board: ChartBoard, key: str, slot: Slot | None) -> None:
        """Another content for a slot; a new one where the key is new; none to take it away."""

        def how(chart: Chart) -> Chart:
            slots = [one for one in chart.slots if one.key != key or slot is not None]
            slots = [slot if one.key == key and slot is not None else one for one in slots]
            if slot is not None and chart.slot(key) is None:
                slots.append(slot)
            return msgspec.structs.replace(chart, slots=tuple(slots))

        name = slot.name if slot is not None else key
        self.change(
            board,
            tr("Slot {name}", name=name)
            if slot is not None
            else tr("Remove slot {name}", name=name),
            how,
        )

    def cut_pictures(
        self,
        board: ChartBoard,
        data: bytes,
        lines: tuple[Sequence[float], Sequence[float]],
        cells: Mapping[str, int],
    ) -> None:
        """Cells of a sheet of drawings become pictures of slots.

        Args:
            board: the chart.
            data: the sheet, a picture in any format.
            lines: across and down, as of :func:`fox_hand.library.charts.sample_pictures.cut`.
            cells: number of the cell by the slots' keys.
        """
        path = board.file.path

        def work(library: Library) -> Done:
            found = cut(data, *lines)
            pictures = {key: found[cell] for key, cell in cells.items()}
            return give_pictures(library, path, pictures)

        self._do(tr("Pictures of {name}", name=board.chart.name), board.place, work)

    def move_slot(self, board: ChartBoard, key: str, step: int) -> None:
        """Further to the front, or to the back."""

        def how(chart: Chart) -> Chart:
            slots = list(chart.slots)
            at = next((n for n, one in enumerate(slots) if one.key == key), -1)
            if at >= 0:
                slots.insert(min(max(at + step, 0), len(slots) - 1), slots.pop(at))
            return msgspec.structs.replace(chart, slots=tuple(slots))

        self.change(board, tr("Order of {name}", name=board.chart.name), how)

    # -- slots ----------------------------------------------------------------------------

    def assign(self, board: ChartBoard, slot: str, character: str, card: Entry) -> None:
        """A card comes into a slot, as its best; one of another character is lent."""
        said = chart_moves.said_with(board.chart, slot, character, add=card.identity)
        lent = card.character.casefold() != character.casefold()
        word = (
            tr("Lend {name} to", name=card.name) if lent else tr("Put {name} into", name=card.name)
        )
        self._say(board, f"{word} {_name(board, slot)}", said)

    def refuse(self, board: ChartBoard, slot: str, character: str, card: Entry) -> None:
        """A card goes out of a slot, and does not come back by its name."""
        said = chart_moves.said_with(board.chart, slot, character, refuse=card.identity)
        self._say(
            board,
            tr("Take {name} out of {name_2}", name=card.name, name_2=_name(board, slot)),
            said,
        )

    def _say(self, board: ChartBoard, label: str, said: Assigned) -> None:
        path = board.file.path
        self._do(label, board.place, lambda library: chart_moves.assign(library, path, said))

    def _do(self, label: str, place: OpenLibrary, work: Callable[..., Done]) -> None:
        if place.library is None:
            return
        task = partial(work, place.library)
        self._file_jobs.do(label, [(label, task)])

    def _on_touched(self, paths: list[Path]) -> None:
        """Charts that were changed, or changed back, are read anew."""
        if any(path.name.endswith(SUFFIX) for path in paths):
            self.read()


def _name(board: ChartBoard, key: str) -> str:
    slot = board.chart.slot(key)
    return slot.name if slot is not None else key


def read_all(
    places: Sequence[OpenLibrary],
    present: Sequence[str],
    progress: Progress,
    before: ChartsRead | None = None,
) -> ChartsRead:
    """Read all charts of some libraries, in a job.

    Args:
        places: the libraries.
        present: characters on the stage.
        progress: of long work.
        before: what was known; what looked like an empty slot stays until that is known anew.
    """
    files: list[tuple[OpenLibrary, ChartFile]] = []
    wrong: list[FoxHandError] = []
    for place in places:
        progress.step(0.0)
        found, problems = read_charts(place.folder)
        files += [(place, file) for file in found]
        wrong += problems
    if not files:
        return ChartsRead((), tuple(wrong))
    cards = tuple(card for place in places for card in _cards(place))
    known = {board.key: board.likely for board in before.boards} if before is not None else {}
    boards = []
    for place, file in files:
        progress.step(0.0)
        likely = known.get((place.number, file.key), {})
        boards.append(board_of(place, file, cards, present, likely))
    return ChartsRead(tuple(boards), tuple(wrong), cards, tuple(present))


def with_likely(found: ChartsRead, progress: Progress) -> ChartsRead:
    """The same with cards that look like what empty slots are to be, in a job."""
    boards = []
    for board in found.boards:
        progress.step(0.0)
        likely = likely_cards(board.place, board)
        again = board_of(board.place, board.file, found.cards, found.present, likely)
        boards.append(again if likely or board.likely else board)
    return replace(found, boards=tuple(boards))


def _cards(place: OpenLibrary) -> list[Entry]:
    if place.reading is None:
        return []
    items = place.reading.columns.items.tolist()
    return list(place.reading.index.entries(items).values())


def chart_from_cards(name: str, cards: Sequence[Entry]) -> Chart:
    """A chart of which every card is a slot; cards of one name are variants of one slot.

    Args:
        name: of the chart.
        cards: in the order of the slots.
    """
    slots: dict[str, Slot] = {}
    for card in cards:
        key = alike_name(card.name) or card.identity[:8]
        known = slots.get(key)
        if known is not None:
            slots[key] = msgspec.structs.replace(known, wanted=min(known.wanted + 1, 99))
            continue
        region = card.region.value
        slots[key] = Slot(
            key[:80],
            _without_number(card.name)[:80],
            region=region if region in REGION_WORDS else "",  # type: ignore[arg-type]
            side="" if card.side in ("centre", "both") else card.side,
            looks=card.note.partition("\n")[0],
            pose=card.identity,
        )
    return Chart(name, slots=tuple(slots.values()))


def _without_number(name: str) -> str:
    head, _, last = name.rpartition(" ")
    return head if head and last.isdigit() else name
