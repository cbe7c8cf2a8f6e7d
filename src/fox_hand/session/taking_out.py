"""What leaves the program: motion and poses of a figure for other programs."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.work import Progress
from fox_hand.core.clip import Clip
from fox_hand.core.keys import Keys
from fox_hand.core.motion import Motion, Source, motion_of
from fox_hand.core.rig import Rig
from fox_hand.core.state import State
from fox_hand.interchange import gltf
from fox_hand.interchange.motions import GLTF, motion_bytes, unit_of
from fox_hand.library.atomic import write_atomically
from fox_hand.session.take import Take

TOGETHER = 64  # frames between two looks at whether somebody wants to stop


def sampled(take: Take, frames: np.ndarray, progress: Progress | None = None) -> State:
    """How a figure stands at many frames, a batch ``(F, C, ...)``.

    Raises:
        Cancelled: if somebody asked to stop.
    """
    found = []
    for start in range(0, len(frames), TOGETHER):
        if progress is not None:
            progress.step(start / len(frames), "sampling")
        found.append(take.many(frames[start : start + TOGETHER]).arrays())
    return State(*(np.concatenate(values) for values in zip(*found, strict=True)))


def shot_motion(
    take: Take,
    name: str,
    span: tuple[float, float],
    own_rate: float,
    rate: float | None = None,
    progress: Progress | None = None,
) -> Motion:
    """What a figure does between two frames.

    Args:
        take: what it does.
        name: of the motion.
        span: first and last frame.
        own_rate: the shot's frames a second.
        rate: other frames a second to sample at.
        progress: of long work.
    """
    rate = rate or own_rate
    first, last = span
    count = int((last - first) / own_rate * rate + 1e-6) + 1
    frames = first + np.arange(count) * own_rate / rate
    source = None if take.blocks else Source(take.keys, first, own_rate)
    return motion_of(name, take.rig, sampled(take, frames, progress), rate, source)


def clip_motion(clip: Clip, name: str, rig: Rig, rate: float | None = None) -> Motion:
    """What a clip does, everything else at rest."""
    take = Take(rig, rig.rest, Keys(clip.lines))
    return shot_motion(take, name, (0.0, clip.length), clip.rate, rate)


def write_motion(path: Path, rig: Rig, motion: Motion, *, alone: bool = False) -> tuple[str, ...]:
    """Write a file for another program; sentences about what it cannot hold are returned.

    Raises:
        FoxHandError: if it cannot be written; what was there is untouched.
    """
    data, notes = motion_bytes(path.suffix, rig, motion, alone=alone)
    write_atomically(path, data)
    return notes


def write_pose(path: Path, rig: Rig, state: State) -> None:
    """Write the character's file with its nodes standing in a pose.

    Raises:
        FoxHandError: ``pose.not_gltf`` for characters of other kinds, ``file.write``.
    """
    source = Path(rig.source)
    if source.suffix.lower() not in GLTF or path.suffix.lower() != ".glb":
        raise FoxHandError(
            "pose.not_gltf",
            f"A pose of {rig.name} cannot be written as {path.name}.",
            "Nothing was written.",
            "Characters out of glTF files are written as .glb.",
        )
    batch = State(*(values[None] for values in state.arrays()))
    motion = motion_of(path.stem, rig, batch, 24.0)
    write_atomically(path, gltf.posed(source, motion, unit_of(source)))
