"""``python bench/shot.py``: opening, scrubbing, writing down and taking out a long shot.

2,000 frames, three characters of the demo, each with a key of every control every eight frames,
and blocks over them. Ratios are to reading one character's file, measured in the same run.
"""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from fox_hand.base.places import Places
from fox_hand.core.animation.curves import (
    ChannelCurve,
    ChannelId,
    ChannelKind,
    Keys,
    channel_ids_of,
)
from fox_hand.core.maths.rotations import normalise
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.animation import Animation
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.snapshot import wake
from fox_hand.session.shots.shots import open_shot

FRAMES, EVERY = 2000, 8
CREW = ("marrow", "pim", "brandle")


def busy(rig: Rig, seed: int) -> Keys:
    """Keys of all controls that wander around rest."""
    rng = np.random.default_rng(seed)
    frames = np.arange(1, FRAMES + 1, EVERY, dtype=np.float64)
    shown = [r for r, c in enumerate(rig.controls) if not c.helper]
    lines: dict[ChannelId, ChannelCurve] = {}
    for channel_id in channel_ids_of(rig, shown):
        wander = np.cumsum(rng.normal(0, 0.05, (len(frames), channel_id.kind.width)), axis=0)
        values = wander - wander.mean(0)
        if channel_id.kind is ChannelKind.TURN:
            values = normalise(values * 0.3 + [0, 0, 0, 1])
        elif channel_id.kind is ChannelKind.SCALE:
            values = 1.0 + 0.02 * values
        elif channel_id.kind is ChannelKind.MOVE:
            values = 0.01 * values
        euler = np.zeros((len(frames), 3)) if channel_id.kind is ChannelKind.TURN else None
        lines[channel_id] = ChannelCurve(
            frames, values, np.full(len(frames), 2, np.uint8), np.zeros(len(frames), np.intp), euler
        )
    return Keys(lines)


def timed(what: Callable[[], object], times: int = 5) -> float:
    """Median milliseconds."""
    found = []
    for _ in range(times):
        began = time.perf_counter()
        what()
        found.append((time.perf_counter() - began) * 1000)
    return statistics.median(found)


def said(word: str, milliseconds: float, unit: float) -> None:
    print(f"{word:52} {milliseconds:9.2f} ms   {milliseconds / unit:6.2f} x one character read")


def opened(places: Places, path: Path, rigs: dict[str, Rig]) -> Workspace:
    """The shot on the stage; with ``rigs`` nothing but the shot is read."""
    opening, workspace = open_shot(places, path), Workspace(places)
    for member in opening.cast.members:
        file = Path(member.path)
        actor = Figure(rigs[file.stem] if rigs else read_rig(file), file, member.prefix)
        workspace.cast.add(actor)
        wake(actor, member)
    return workspace


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        places, path = Places.under(Path(folder) / "user"), Path(folder) / "long.foxshot"
        rigs = {name: read_rig(shipped() / "cast" / f"{name}.glb") for name in CREW}
        unit = timed(lambda: read_rig(shipped() / "cast" / "marrow.glb"))
        workspace = Workspace(places)
        workspace.timing.set_range(1, FRAMES)
        for number, (name, rig) in enumerate(rigs.items()):
            actor = workspace.place(Figure(rig, shipped() / "cast" / f"{name}.glb"))
            actor.perform(Animation(rig, rig.rest, busy(rig, number)))
        keys = sum(a.keys.count for a in workspace.cast.actors)
        print(f"{FRAMES} frames, {len(CREW)} characters, {keys} keys")
        said("saving", timed(lambda: workspace.shots.save(path), 3), unit)
        print(f"{path.stat().st_size / 1e6:.1f} MB")
        said(
            "opening the shot, characters at hand",
            timed(lambda: opened(places, path, rigs), 3),
            unit,
        )
        said(
            "opening the shot and its characters", timed(lambda: opened(places, path, {}), 3), unit
        )
        workspace = opened(places, path, rigs)
        for actor in workspace.cast.actors:
            _ = actor.take.timeline
        frames = iter(np.random.default_rng(1).permutation(FRAMES).tolist() * 3)

        def scrub() -> None:
            workspace.cast.go(float(next(frames)) + 1.0)

        def seen() -> None:
            scrub()
            for actor in workspace.cast.actors:
                _ = actor.at

        def pulled() -> None:
            workspace.cast.go(workspace.timing.frame % (FRAMES - 1) + 1.0)
            for actor in workspace.cast.actors:
                _ = actor.at

        for _ in range(20):
            seen()
        said("a jump to some frame: keys of all three", timed(scrub, 200), unit)
        said("a jump: keys, and where every joint is", timed(seen, 200), unit)
        began = time.perf_counter()
        for _ in range(480):
            pulled()
        said("frame by frame: the same, mean", (time.perf_counter() - began) * 1000 / 480, unit)
        worst = max(timed(pulled, 1) for _ in range(64))
        said("frame by frame: the longest", worst, unit)
        one = workspace.cast.actors[0]
        said("  of it one character", timed(lambda: one.rig.evaluate(one.state), 200), unit)
        said("writing down", timed(workspace.save_figure, 3), unit)


if __name__ == "__main__":
    main()
