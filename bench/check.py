"""``scripts/python bench/check.py [--write]``: is anything slower than it was?

Each thing is measured beside something plain in the same run (raw zip reading, matrix products, a
plain loop), so that the machine and what else it does fall out. What was usual stands in
``ratios.toml``; anything more than 1.3 times worse is named, and the exit code is 1. ``--write``
makes the present ratios the usual ones. The window is opened three times and worked in by
``bench/answering.py``; of its longest gaps the shortest counts, and none below one frame of a
screen is slower than another. ``--quick`` leaves the window out.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
import tomllib
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

os.environ["OPENBLAS_NUM_THREADS"] = (
    "1"  # before it is loaded: several threads take turns at random
)

import numpy as np
from PIL import Image, ImageDraw

from fox_hand.core.kinematics.skinning import skinned
from fox_hand.core.maths.rotations import from_vector
from fox_hand.core.model.state import State
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.pose import bind
from fox_hand.core.puppet.drawn import PartDrawing, png
from fox_hand.core.puppet.puppet import Puppet, PuppetPart
from fox_hand.core.retarget.retarget import FitOptions, fit
from fox_hand.core.retarget.transfer import follow
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Quality, Standing, View
from fox_hand.demo.demo_project import demo_performance, shipped
from fox_hand.interchange.motions import read_performance
from fox_hand.interchange.puppets.puppet_file import puppet_files
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.library.format.head import read_head
from fox_hand.library.index.alike import AlikeFinder, numbers_of
from fox_hand.library.index.index import Index
from fox_hand.library.index.scan import scan
from fox_hand.library.store.store import Library
from fox_hand.render.renderer import Renderer
from fox_hand.session.animating.motion_import import pairs_of
from fox_hand.session.applying.application import Application, How, Weights
from fox_hand.session.figures.animation import Animation
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.pose_conversion import state_of

FILE = Path(__file__).with_name("ratios.toml")
WORSE = 1.3
WINDOWS = 3
SEEN = 16.0  # milliseconds: what takes less than a frame of the screen nobody sees
ROUNDS = 15
CARDS = 600
Run = Callable[[], Any]


def ratio(work: Run, plain: Run, clock: Run = time.process_time) -> float:
    """How many times as long the work takes as the plain thing, the shortest of each: what else
    the machine does only ever adds. Counted is the processor's time of this process, so that
    little is added at all; ``clock`` is another where others do the work."""
    work(), plain()  # everything has been seen once
    took: tuple[list[float], list[float]] = [], []
    for _ in range(ROUNDS):
        for run, times in ((plain, took[0]), (work, took[1])):
            start = float(clock())
            run()
            times.append(float(clock()) - start)
    return min(took[1]) / min(took[0])


def products() -> object:
    """75 matrix products for each of 1,000 frames: the plainest kinematics there is."""
    return MATRICES @ MATRICES


MATRICES = np.random.default_rng(1).random((1000, 75, 4, 4))


def figures(figure: Figure, card: Card) -> Iterator[tuple[str, float]]:
    """Kinematics, skinning, blending and putting on."""
    rig, rng = figure.rig, np.random.default_rng(5)
    one = rig.rest.with_(turn=from_vector(rng.normal(0, 0.3, (len(rig.controls), 3))))
    frames = 200
    batch = State(*(np.repeat(values[None], frames, 0) for values in one.arrays()))
    pose = bind(card.pose, rig)

    def loop() -> None:
        for row in range(len(rig.controls)):
            float(one.turn[row] @ one.turn[row])

    def many(work: Run) -> Run:
        return lambda: [work() for _ in range(100)]

    yield "frames of a figure, to matrix products", ratio(lambda: rig.evaluate(batch), products)
    yield "a pose to matrices, to a plain loop", ratio(many(lambda: rig.evaluate(one)), many(loop))
    put = blend, one, pose, 0.4, rig.setting_rules
    yield "blending a pose, to a plain loop", ratio(many(lambda: put[0](*put[1:])), many(loop))
    application = Application(figure, one, [pose], How())
    amounts = iter(range(10**9))

    def pull() -> object:
        return application.at([Weights(0.3 + next(amounts) % 50 / 100)])

    yield "a pull of a card, to a plain loop", ratio(many(pull), many(loop))
    at = rig.evaluate(one)

    def skin() -> object:
        return [skinned(part, at.palette, at.settings) for part in rig.parts]

    yield "skinning, to matrix products", ratio(skin, products)


def motion(figure: Figure, card: Card) -> Iterator[tuple[str, float]]:
    """Sampling keys."""
    clip = card.clip
    assert clip is not None
    take = replace(Animation(figure.rig, figure.rig.rest), keys=clip.keys)
    frames = np.linspace(0, clip.length, 200)
    yield "200 frames of keys, to matrix products", ratio(lambda: take.many(frames), products)


def others(figure: Figure, card: Card) -> Iterator[tuple[str, float]]:
    """A card and a performance on another character."""
    target = read_rig(shipped() / "cast" / "pim.glb")
    names = {name: name for name in card.pose.controls if name in target.control_row}
    source = figure.rig, state_of(figure.rig, card.pose)
    yield (
        "a card fitted, to matrix products",
        ratio(lambda: fit(card.pose, target, names, {}, FitOptions(), source), products),
    )
    walk = read_performance(demo_performance())
    pairs = pairs_of(walk.rig, target, {})
    yield (
        "a performance followed, to matrix products",
        ratio(lambda: follow(walk, target, pairs), products),
    )


def window() -> Iterator[tuple[str, float]]:
    """How long the window does not answer at most, to the plainest kinematics."""
    products()
    plain = min(_took(products) for _ in range(ROUNDS))
    command = [sys.executable, str(Path(__file__).with_name("answering.py"))]
    found: dict[str, float] = {}
    for _ in range(WINDOWS):
        told = subprocess.run(command, capture_output=True, text=True, check=True).stdout
        for line in told.splitlines():
            name, _tab, said = line.partition("\t")
            gap = float(said.split("\t")[0])  # what it computed itself stands behind it
            found[name] = min(found.get(name, float("inf")), gap)
    for name, gap in found.items():
        yield f"window: {name}, to matrix products", max(gap, SEEN) / plain / 1000


def _took(run: Run) -> float:
    start = time.perf_counter()
    run()
    return time.perf_counter() - start


def reading(folder: Path, pose: Card, picture: bytes | None) -> Iterator[tuple[str, float]]:
    """Reading cards, a library for the first time, and finding the like of one."""
    library = Library.create(folder / "library", "Bench")
    paths = [
        library.add(replace(pose, name=f"Card {n}", identity=f"{n:032x}"), picture, "Sheet")
        for n in range(CARDS)
    ]

    def raw() -> None:
        for path in paths:
            with zipfile.ZipFile(path) as archive:
                archive.read("card.json")

    def first() -> None:
        with tempfile.TemporaryDirectory() as cache:
            index = Index.of(library.folder, Path(cache))
            scan(index)
            index.close()

    yield (
        "heads of cards, to raw zip reading",
        ratio(lambda: [read_head(path, "Sheet") for path in paths], raw),
    )
    yield "whole cards, to raw zip reading", ratio(lambda: [read_card(p) for p in paths[:60]], raw)
    yield "a library for the first time, to raw zip reading", ratio(first, raw)
    index = Index.of(library.folder, folder / "cache")
    scan(index)
    finder, numbers = AlikeFinder(index), numbers_of(pose.pose)
    yield (
        "the nearest cards, to raw zip reading",
        ratio(lambda: [finder.nearest(numbers) for _ in range(20)], raw),
    )
    yield (
        "a word among cards, to raw zip reading",
        ratio(lambda: [index.matching("card") for _ in range(20)], raw),
    )
    index.close()


def drawing(figure: Figure) -> Iterator[tuple[str, float]]:
    """Pictures, beside the quickest one."""
    camera = Camera().framing(figure.rig.flesh(figure.standing.at, None, every=3), 1.0, 1.2)
    renderer = Renderer()
    turn = iter(range(10**9))

    def picture(pixels: int, quality: Quality) -> Run:
        def draw() -> object:
            moved = camera.orbit(next(turn) * 0.01, 0.0)
            standing = Standing(figure.rig, figure.standing.at)
            return renderer.picture(View((standing,), moved, pixels, pixels, quality))

        return draw

    try:
        quick = picture(320, Quality.DRAFT)
        yield (
            "a picture of a card, to a draft",
            ratio(picture(320, Quality.CARD), quick, time.perf_counter),
        )
        yield (
            "a fine picture, to a draft",
            ratio(picture(320, Quality.FULL), quick, time.perf_counter),
        )
        with tempfile.TemporaryDirectory() as folder:
            heap = Standing(rig := heaped(Path(folder)), rig.evaluate(rig.rest))
        over = Camera().framing(rig.flesh(heap.at), 1.0, 1.05)
        yield (
            "60 drawings over each other, to a draft",
            ratio(
                lambda: renderer.picture(View((heap,), over, 320, 320, Quality.DRAFT)),
                quick,
                time.perf_counter,
            ),
        )
    finally:
        renderer.stop()


def heaped(folder: Path) -> Rig:
    """A puppet of 60 parts whose drawings all cover the canvas: dots on a ground with holes."""
    side, random = 512, np.random.default_rng(1)
    parts = []
    for number in range(60):
        picture = Image.new("RGBA", (side, side))
        pen = ImageDraw.Draw(picture)
        for x, y, reach in random.integers((40, 40, 10), (side - 40, side - 40, 100), (40, 3)):
            pen.ellipse((x - reach, y - reach, x + reach, y + reach), (4 * number, 90, 120, 255))
        one = PartDrawing("d", png(np.asarray(picture)), side, side)
        above = f"p{(number - 1) // 3}" if number else None
        parts.append(PuppetPart(f"p{number}", (one,), above=above, pivot=(256.0, 256.0)))
    binary, sidecar = puppet_files(Puppet("Heap", side, side, tuple(parts)))
    (folder / "heap.glb").write_bytes(binary)
    (folder / "heap.foxrig.json").write_bytes(sidecar)
    return read_rig(folder / "heap.glb")


def measured() -> dict[str, float]:
    """Every ratio by its name."""
    demo = shipped()
    figure = Figure(read_rig(demo / "cast" / "marrow.glb"), demo / "cast" / "marrow.glb")
    cards = {path.stem: path for path in (demo / "library" / "Marrow").rglob("*.foxcard")}
    pose, picture = read_card(cards["Wave"])
    with tempfile.TemporaryDirectory() as folder:
        return {
            **dict(figures(figure, pose)),
            **dict(motion(figure, read_card(cards["Walk loop"])[0])),
            **dict(others(figure, pose)),
            **dict(reading(Path(folder), pose, picture)),
            **dict(drawing(figure)),
            **({} if "--quick" in sys.argv else dict(window())),
        }


def main() -> int:
    found = measured()
    if "--write" in sys.argv:
        lines = [f'"{name}" = {value:.3g}' for name, value in found.items()]
        FILE.write_text("# what bench/check.py found usual\n" + "\n".join(lines) + "\n")
    usual = tomllib.loads(FILE.read_text())
    slower = 0
    for name, value in found.items():
        was = usual.get(name)
        worse = was is not None and value > WORSE * was
        slower += worse
        said = "new" if was is None else f"usual {was:.3g}, {value / was:.2f} of it"
        print(f"{name:58} {value:8.3g}   {said}{'   SLOWER' if worse else ''}")
    return 1 if slower else 0


if __name__ == "__main__":
    sys.exit(main())
