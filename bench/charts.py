"""``python bench/charts.py [--characters 5] [--slots 40]``: how long charts take to be read and
filled, with half of the slots empty. The aim is 200 ms until they are shown."""

from __future__ import annotations

import argparse
import statistics
import tempfile
import time
from dataclasses import replace
from pathlib import Path

import numpy as np

from fox_hand.base.places import Places
from fox_hand.base.work import Progress
from fox_hand.core.maths.rotations import from_vector
from fox_hand.core.model.controls import Region
from fox_hand.core.pose.pose import Held, Pose
from fox_hand.demo.demo_project import shipped
from fox_hand.library.charts import chart_moves
from fox_hand.library.charts.chart import Chart, Slot
from fox_hand.library.format.container import read_card
from fox_hand.library.store.store import Library
from fox_hand.session.charts.chart_book import read_all, with_likely
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.runtime.jobs import Jobs

CONTROLS = 16


def filled(folder: Path, characters: int, slots: int) -> Library:
    """Every character has the shapes whose number is even for the first, odd for the next."""
    library = Library.create(folder, "Charts")
    base = read_card(next((shipped() / "library" / "Marrow" / "Hands").glob("*.foxcard")))[0]
    rest = next(iter(base.pose.controls.values())).rest
    rng = np.random.default_rng(5)
    turns = from_vector(rng.normal(0, 0.5, (slots, CONTROLS, 3)))
    for number in range(characters):
        for slot in range(number % 2, slots, 2):
            held = {
                f"finger_{i}": Held(turn=tuple(q), euler=(0.1, 0.2, 0.3), order="XYZ", rest=rest)
                for i, q in enumerate(turns[slot].tolist())
            }
            card = replace(
                base,
                name=f"Shape {chr(65 + slot % 26)}{slot}",
                pose=Pose(held),
                region=Region.HANDS,
                character=f"Character {number}",
                identity=f"{number:016x}{slot:016x}",
            )
            library.add(card, None, f"Character {number}/Hands")
    chart = Chart(
        "Shapes",
        slots=tuple(
            Slot(f"s{n}", f"Shape {chr(65 + n % 26)}{n}", region="hands") for n in range(slots)
        ),
    )
    chart_moves.add(library, chart)
    return library


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--characters", type=int, default=5)
    parser.add_argument("--slots", type=int, default=40)
    wish = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder, tempfile.TemporaryDirectory() as cache:
        library = filled(Path(folder), wish.characters, wish.slots)
        libraries = OpenLibraries(Places.under(Path(cache)), Jobs(lambda run: run(), inline=True))
        place = libraries.open(library.folder)
        times, later = [], []
        for _ in range(7):
            start = time.perf_counter()
            found = read_all([place], (), Progress())
            times.append((time.perf_counter() - start) * 1000)
            with_likely(found, Progress())
            later.append((time.perf_counter() - start) * 1000)
        (board,) = found.boards
        print(f"{board.count} of {board.whole} slots filled")
        print(f"read and filled: first {times[0]:.0f} ms, then {statistics.median(times):.0f} ms")
        print(f"what looks like empty slots: after {statistics.median(later):.0f} ms")


if __name__ == "__main__":
    main()
