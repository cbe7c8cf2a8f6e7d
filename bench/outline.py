"""``python bench/outline.py [--cards 100000] [--sheets 2000] [--folder DIR]``: a library of many
sheets in sheets, and of one very full sheet, in a real (offscreen) window.

Cards are small (a few joints, a picture of 2 KB), so that what is measured is their number. The
window's longest stall is taken by a timer that should come every 5 ms.
"""

from __future__ import annotations

import argparse
import os
import statistics
import tempfile
import time
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from fox_hand.base.places import Places
from fox_hand.core.maths.rotations import from_vector
from fox_hand.core.model.controls import Region
from fox_hand.core.pose.pose import Held, Pose
from fox_hand.demo.demo_project import shipped
from fox_hand.library.format.container import card_bytes, read_card
from fox_hand.library.index.query import with_filter
from fox_hand.library.index.sheet_tree import sheet_tree
from fox_hand.library.store.store import Library
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.request import Request
from fox_hand.session.runtime.jobs import Jobs

# fmt: off
WORDS = [
    "fist", "flat", "open", "point", "relaxed", "wave", "haul", "rope", "rail", "crouch",
    "glad", "sad", "sly", "blink", "wink", "tense", "lean", "sit", "cross", "afraid",
    "surprised", "asleep", "half", "wide", "narrow", "stretch", "turn", "look", "walk",
    "contact", "passing", "reach", "grip", "pinch", "cup", "thumb", "fox", "two", "soft", "hard",
]
# fmt: on
PEOPLE = ("Ines B.", "Tomo R.", "Adaeze", "Lior", "Maike", "Sun")
DEEP, FULL = 10, 20_000


def sheet_names(count: int) -> list[str]:
    """So many sheets, ten deep: chains of ten that part at every depth."""
    rng, found = np.random.default_rng(3), list[str]()
    while len(found) < count:
        parts = [f"Character {rng.integers(6)}"]
        for depth in range(1, DEEP):
            parts.append(f"{WORDS[rng.integers(len(WORDS))].capitalize()} {depth}")
            path = "/".join(parts)
            if path not in found:
                found.append(path)
    return found[:count]


def generate(folder: Path, count: int, sheets: int) -> None:
    """A fifth of the cards in one sheet, the others spread over the rest."""
    library = Library.create(folder, "Deep")
    base = read_card(next((shipped() / "library" / "Marrow" / "Hands").glob("*.foxcard")))[0]
    rest = next(iter(base.pose.controls.values())).rest
    rng, names = np.random.default_rng(7), sheet_names(sheets)
    full = min(FULL, count // 5)
    for name in names:
        (folder / name).mkdir(parents=True, exist_ok=True)
    picture = rng.bytes(2000)
    for number in range(count):
        sheet = "Character 0/Full" if number < full else names[number % len(names)]
        words = rng.choice(WORDS, 4).tolist()
        turns = from_vector(rng.normal(0, 0.4, (3, 3))).tolist()
        held = {
            f"control_{i}": Held(turn=tuple(q), euler=(0.1, 0.2, 0.3), order="XYZ", rest=rest)
            for i, q in enumerate(turns)
        }
        card = replace(
            base,
            name=f"{words[0]} {words[1]} {number}",
            pose=Pose(held),
            region=tuple(Region)[number % 7],
            side=("left", "right", "centre", "both")[number % 4],
            tags=tuple(words[2:4]),
            character=f"Character {number % 6}",
            author=PEOPLE[number % 6],
            identity=uuid.UUID(int=number + 1).hex,
            changed="2026-11-12T09:00:00Z",
        )
        place = library.folder / sheet
        place.mkdir(parents=True, exist_ok=True)
        (place / f"{number:06}.foxcard").write_bytes(card_bytes(card, picture))


def timed(work: Callable[[], object], times: int = 7) -> float:
    """Milliseconds, the median of some."""
    found = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        found.append((time.perf_counter() - start) * 1000)
    return statistics.median(found)


def line(what: str, value: str, aim: str = "") -> None:
    print(f"{what:<52}{value:>14}   {aim and 'aim ' + aim}", flush=True)


def without_window(folder: Path, cache: Path) -> None:
    """Index, tree, facets and searches."""
    jobs = Jobs(lambda run: run(), inline=True)
    libraries = OpenLibraries(Places.under(cache), jobs)
    start = time.perf_counter()
    place = libraries.open(folder)
    line("first reading, whole", f"{time.perf_counter() - start:.1f} s")
    assert place.reading is not None
    line("  of it making the columns", f"{timed(place.reading.index.columns, 3):.0f} ms")
    columns, sheets = place.reading.columns, place.sheets
    line("all sheets as a tree", f"{timed(lambda: sheet_tree(columns, sheets)):.1f} ms", "50 ms")
    looking = libraries.search_in()
    texts = ("", "fist", "rop region:hands", "wave side:left by:tomo", 'tag:"rope","rail" glad')
    for words in texts:
        request = Request(words)
        facets = timed(lambda r=request: looking.facets(r))  # type: ignore[misc]
        found = timed(lambda r=request: libraries.find(r))  # type: ignore[misc]
        line(f"  {words or 'everything'}", f"{found:.1f} ms", f"20 ms; facets {facets:.1f} ms")
    one = Request("", within=((place.number, "Character 0/Full"),))
    line("narrowed to the full sheet", f"{timed(lambda: libraries.find(one)):.1f} ms", "20 ms")


@contextmanager
def stalls() -> Iterator[list[float]]:
    """Milliseconds between ticks that should be 5 apart."""
    from PySide6.QtCore import QTimer

    found, last = [0.0], time.perf_counter()

    def tick() -> None:
        nonlocal last
        now = time.perf_counter()
        found.append((now - last) * 1000)
        last = now

    timer = QTimer()
    timer.setInterval(5)
    timer.timeout.connect(tick)
    timer.start()
    yield found
    timer.stop()


def with_window(folder: Path, home: Path) -> None:
    """What a person does, and the longest time the window did not answer."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtCore import QEventLoop, QTimer
    from PySide6.QtWidgets import QApplication

    from fox_hand.__main__ import assembled

    app = QApplication.instance() or QApplication([])

    def run(seconds: float) -> None:
        loop = QEventLoop()
        QTimer.singleShot(round(seconds * 1000), loop.quit)
        loop.exec()

    def told(what: str, do: Callable[[], object], seconds: float = 1.0) -> None:
        with stalls() as found:
            start = time.perf_counter()
            do()
            took = (time.perf_counter() - start) * 1000
            run(seconds)
        line(what, f"{max(found):.0f} ms", f"50 ms; the call itself {took:.0f} ms")

    with assembled(Places.under(home)) as window:
        sheets, libraries = window.sheets, window.workspace.open_libraries
        run(1.0)
        start, first = time.perf_counter(), 0.0
        window.opener.open_library(folder)
        with stalls() as found:
            while any(p.reading is None or p.partial for p in libraries.places):
                run(0.05)
                if not first and any(len(s.keys) for s in sheets.view.shown):
                    first = time.perf_counter() - start
            run(1.5)
        line("first cards in sight while it is read", f"{first:.1f} s")
        line("  longest stall until all is there", f"{max(found):.0f} ms", "50 ms")
        deeds(window, told, app.processEvents)


def deeds(window: Any, told: Callable[..., None], paint: Callable[[], object]) -> None:
    """What is done with the library that was opened last."""
    sheets, place = window.sheets, window.workspace.open_libraries.places[-1]
    rows, bar = sheets.outline.list, sheets.view.verticalScrollBar()
    full, deep = "Character 0/Full", max(place.sheets, key=lambda s: s.count("/"))

    def scroll(one: Any) -> None:
        for step in range(60):
            one.setValue(step * one.maximum() // 60)
            paint()

    told("outline opened", lambda: sheets.side.set_shown(True), 2.0)
    told("narrowed to a sheet ten deep", lambda: sheets.narrow((place.number, deep), False))
    told("narrowed to 20,000 cards", lambda: sheets.narrow((place.number, full), False))
    told("scrolled through them, 60 steps", lambda: scroll(bar))
    told("all again", sheets.widen, 2.0)
    told("scrolled through all sheets, 60 steps", lambda: scroll(bar))
    told("everything unfolded", lambda: unfold_all(window), 2.0)
    line("  rows", f"{len(rows.rows):,}")
    told("outline scrolled, 60 steps", lambda: scroll(rows.verticalScrollBar()))
    told("a sheet found by typing", lambda: sheets.outline.field.setText("rop"))
    told("facets opened", lambda: sheets.open_facets(True), 2.0)
    text = with_filter("", "region", ("hands",))
    told("a facet chosen", lambda: window.header.search_field.setText(text), 2.0)


def unfold_all(window: Any) -> None:
    """Every sheet that can be."""
    sheets = window.sheets
    folds = window.workspace.settings.outline_folds
    for place in window.workspace.open_libraries.places:
        for sheet in place.sheets:
            folds[f"{place.name}/{sheet}"] = False
    sheets.outline.refresh()


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--cards", type=int, default=100_000)
    parser.add_argument("--sheets", type=int, default=2_000)
    parser.add_argument("--folder", type=Path)
    wish = parser.parse_args()
    name = f"fox-hand-outline-{wish.cards}-{wish.sheets}"
    place = wish.folder or Path(tempfile.gettempdir()) / name
    if not (place / "library.toml").exists():
        start = time.perf_counter()
        generate(place, wish.cards, wish.sheets)
        print(f"{wish.cards} cards made in {time.perf_counter() - start:.0f} s in {place}")
    with tempfile.TemporaryDirectory() as cache, tempfile.TemporaryDirectory() as home:
        without_window(place, Path(cache))
        with_window(place, Path(home))


if __name__ == "__main__":
    main()
