"""``python bench/speed.py``: how long the main work takes here, as a table.

Absolute figures move by a factor of two on a busy machine, so each line also names what it is
compared with in the same run where there is something to compare.
"""

from __future__ import annotations

import argparse
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np

from fox_hand.core.kinematics.skinning import skinned
from fox_hand.core.maths.rotations import Array, between, from_vector
from fox_hand.core.model.solvers import Aim, Limb
from fox_hand.core.model.state import State
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.pose import ChannelFilter, bind, take
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Contour, Quality, Standing, View
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.container import read_card
from fox_hand.render.renderer import Renderer
from fox_hand.session.applying.application import Application, How, Weights
from fox_hand.session.applying.fit_draft import FitDraft
from fox_hand.session.figures.figure import Figure

STAGE = (1000, 700)


def median_ms(work: Callable[[], object], repeat: int) -> float:
    """Median of several runs, in milliseconds, after one to warm up."""
    work()
    times = []
    for _ in range(repeat):
        start = time.perf_counter()
        work()
        times.append((time.perf_counter() - start) * 1000)
    return statistics.median(times)


def line(what: str, took: float, aim: str, compared: str = "") -> None:
    print(f"{what:<58}{took:>9.2f} ms   aim {aim:<10} {compared}")


def random_state(rig: Rig, seed: int) -> State:
    rng = np.random.default_rng(seed)
    turn = from_vector(rng.normal(0, 0.4, (len(rig.controls), 3)))
    settings = rng.uniform(0, 1, len(rig.settings))
    return rig.rest.with_(turn=turn, settings=settings)


def on_goals(rig: Rig, state: State) -> State:
    """Every limb on its goal, the eyes on theirs, goals and poles a little aside."""
    rng = np.random.default_rng(3)
    settings, move = state.settings.copy(), state.move.copy()
    for solver in rig.solvers:
        if isinstance(solver, Limb | Aim) and solver.blend is not None:
            settings[solver.blend] = 1.0
    for limb in rig.limbs:
        for node in (limb.goal, limb.pole):
            move[rig.row_of_node[node]] = rng.normal(0, 0.1, 3)
    return state.with_(settings=settings, move=move)


def batches(rig: Rig, one: State, single: float) -> None:
    """Thousands of frames with everything a rig can do, beside the plainest kinematics there is:
    75 products of 4x4 matrices a frame."""
    frames = 2048
    rng = np.random.default_rng(5)
    shape = (frames, *one.turn.shape[:1], 3)
    batch = State(
        np.repeat(one.move[None], frames, 0),
        from_vector(rng.normal(0, 0.3, shape)),
        np.repeat(one.scale[None], frames, 0),
        np.repeat(one.settings[None], frames, 0),
        np.repeat(one.euler[None], frames, 0),
    )
    resting = batch.with_(settings=np.repeat(at_rest(rig, one)[None], frames, 0))
    matrices = rng.random((1000, 75, 4, 4))
    plain = median_ms(lambda: matrices @ matrices, 9) / 1000
    for words, states in (("", resting), (", all drives moving", batch)):
        took = median_ms(partial(rig.evaluate, states), 9)
        rate = frames / took * 1000
        line(
            f"{frames} frames with goals{words}",
            took,
            "30000/s",
            f"{rate:.0f} frames/s; {took / frames / plain:.1f} times 75 plain matrix products "
            f"({plain * 10_000:.0f} ms for 10,000), {frames * single / took:.0f} times one by one",
        )


def at_rest(rig: Rig, one: State) -> Array:
    """The settings of limbs and looks as they are, all others at rest."""
    settings = rig.rest.settings.copy()
    rows = [s.blend for s in rig.solvers if isinstance(s, Limb | Aim) and s.blend is not None]
    settings[rows] = one.settings[rows]
    return settings


def calculations(rig: Rig) -> None:
    one = random_state(rig, 1)
    fk = median_ms(lambda: rig.evaluate(one), 200)
    line(f"pose to matrices, {len(rig.controls)} controls, limbs between", fk, "2 ms")
    reaching = on_goals(rig, one)
    line(
        "the same with arms and legs on their goals, eyes following",
        median_ms(lambda: rig.evaluate(reaching), 200),
        "1.5 ms",
    )
    batches(rig, reaching, fk)
    pose = take(rig, random_state(rig, 2), ChannelFilter.of(rig, range(len(rig.controls))))
    bound = bind(pose, rig)
    mixed = median_ms(lambda: blend(one, bound, 0.4, rig.setting_rules), 200)
    loop = median_ms(
        lambda: [between(one.turn[r], bound.turn[i], 0.4) for i, r in enumerate(bound.turn_rows)],
        10,
    )
    line("blending a whole pose by 40 %", mixed, "1 ms", f"{loop / mixed:.0f} times a plain loop")
    at = rig.evaluate(one)
    cpu = median_ms(lambda: [skinned(p, at.palette, at.settings) for p in rig.parts], 20)
    einsum = median_ms(lambda: rig.flesh(at), 10)
    count = sum(len(p.positions) for p in rig.parts)
    line(f"skinning {count} vertices on the CPU", cpu, "3 ms", f"{einsum / cpu:.1f} times einsum")


def mixes(rig: Rig) -> None:
    """What a pull of the mix bar computes, and what a click on another character's card does."""
    path = shipped() / "cast" / "marrow.glb"
    actor = Figure(rig, path)
    rows = ChannelFilter.of(rig, range(len(rig.controls)))
    poses = [bind(take(rig, random_state(rig, 10 + i), rows), rig) for i in range(4)]
    alone, four = (
        Application(actor, rig.rest, poses[:1], How()),
        Application(actor, rig.rest, poses, How()),
    )
    amounts = iter(np.linspace(0.01, 0.99, 1000).tolist())

    def pulled(putting: Application, count: int) -> object:
        amount = next(amounts)
        state = putting.at([Weights(amount / count)] * count)
        return rig.evaluate(state)

    one = median_ms(lambda: pulled(alone, 1), 100)
    line("a pull of one card: blended, within limits, evaluated", one, "2 ms")
    several = median_ms(lambda: pulled(four, 4), 100)
    line("the same with four cards", several, "4 ms", f"{several / one:.1f} times one")
    quill = shipped() / "cast" / "quill.glb"
    other = Figure(read_rig(quill), quill)
    card, _ = read_card(shipped() / "library" / "Marrow" / "Body" / "Wave.foxcard")
    fitted = median_ms(lambda: FitDraft(card, other, source=rig), 10)
    line("fitting a body card to Quill, in a job", fitted, "100 ms")


def pictures(rig: Rig) -> None:
    renderer = Renderer()
    camera = Camera(yaw=0.4).framing(rig.flesh(rig.evaluate(rig.rest)), STAGE[0] / STAGE[1])
    seeds = iter(range(10_000))

    def view(quality: Quality, size: tuple[int, int], contour: bool) -> View:
        standing = Standing(rig, rig.evaluate(random_state(rig, next(seeds))))
        contours = (Contour("selected", standing, frozenset({10, 11, 12})),) if contour else ()
        return View((standing,), camera, *size, quality, contours=contours)

    def drawn(quality: Quality, size: tuple[int, int], contour: bool = False) -> float:
        return median_ms(lambda: renderer.picture(view(quality, size, contour)), 12)

    draft = drawn(Quality.DRAFT, STAGE)
    full = drawn(Quality.FULL, STAGE, contour=True)
    line("first picture of a new pose, stage 1000x700", draft, "100 ms")
    line(
        "fine picture with an outline, after 70 ms of rest",
        full + 70,
        "400 ms",
        f"{full / draft:.1f} times the first",
    )
    line("picture of a card, 160 px", drawn(Quality.CARD, (160, 160)), "-")
    line("picture of a card, 320 px", drawn(Quality.CARD, (320, 320)), "-")
    print(f"drawn by {renderer.name}")
    renderer.stop()


def start_up() -> None:
    """From the command to the first painted stage, a second start."""
    with tempfile.TemporaryDirectory() as home:
        env = dict(os.environ, QT_QPA_PLATFORM="offscreen")
        env.pop("PYTHONDONTWRITEBYTECODE", None)  # a user's machine keeps compiled modules
        for name in ("CONFIG", "STATE", "DATA", "CACHE"):
            env[f"XDG_{name}_HOME"] = home
        times = []
        probe = Path(__file__).with_name("first_picture.py")
        for _ in range(6):
            start = time.time()
            command = [sys.executable, str(probe)]
            said = subprocess.run(command, env=env, check=True, capture_output=True, text=True)
            times.append((float(said.stdout) - start) * 1000)
        line("second start to the first painted stage", statistics.median(times[1:]), "2000 ms")


def answering() -> None:
    """The longest time the window does not answer, for each thing that is done."""
    probe = Path(__file__).with_name("answering.py")
    runs: dict[str, list[float]] = {}
    for _ in range(3):
        command = [sys.executable, str(probe)]
        said = subprocess.run(command, check=True, capture_output=True, text=True)
        for row in said.stdout.splitlines():
            name, gap, *_own = row.split("\t")
            runs.setdefault(name, []).append(float(gap))
    for name, gaps in runs.items():
        line(f"longest gap: {name}", statistics.median(gaps), "50 ms")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--only", choices=("calculations", "pictures", "start", "answering"))
    only = parser.parse_args().only
    rig = read_rig(shipped() / "cast" / "marrow.glb")
    rig = replace(rig)
    if only in (None, "calculations"):
        calculations(rig)
        mixes(rig)
    if only in (None, "pictures"):
        pictures(rig)
    if only in (None, "start"):
        start_up()
    if only in (None, "answering"):
        answering()


if __name__ == "__main__":
    main()
