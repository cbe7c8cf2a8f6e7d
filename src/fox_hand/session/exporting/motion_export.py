"""What leaves the program: motion and poses of a figure for other programs."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.outputs import keep_inputs
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.curves import Keys
from fox_hand.core.animation.motion import Motion, Source, motion_of
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange import gltf
from fox_hand.interchange.files import files_of
from fox_hand.interchange.motions import GLTF, motion_bytes, unit_of
from fox_hand.library.files.atomic import write_atomically
from fox_hand.session.figures.animation import Animation

IN_PLACE = (".glb", ".bvh")  # kinds that keep all else that is in the file
TOGETHER = 64  # frames between two looks at whether somebody wants to stop


def sampled(take: Animation, frames: np.ndarray, progress: Progress | None = None) -> State:
    """How a figure stands at many frames, a batch ``(F, C, ...)``.

    Raises:
        Cancelled: if somebody asked to stop.
    """
    found = []
    for start in range(0, len(frames), TOGETHER):
        if progress is not None:
            progress.step(start / len(frames), tr("sampling"))
        found.append(take.many(frames[start : start + TOGETHER]).arrays())
    return State(*(np.concatenate(values) for values in zip(*found, strict=True)))


def shot_motion(
    take: Animation,
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
    source = None if take.instances else Source(take.keys, first, own_rate)
    return motion_of(name, take.rig, sampled(take, frames, progress), rate, source)


def clip_motion(clip: Clip, name: str, rig: Rig, rate: float | None = None) -> Motion:
    """What a clip does, everything else at rest."""
    take = Animation(rig, rig.rest, Keys(clip.lines))
    return shot_motion(take, name, (0.0, clip.length), clip.rate, rate)


def keep_what_is_open(path: Path, rigs: Iterable[Path], shot: Path | None = None) -> None:
    """Refuse to write over a character's files, or over the shot.

    Raises:
        FoxHandError: ``output.is_input``.
    """
    keep_inputs(path, [file for rig in rigs for file in files_of(rig)])
    keep_inputs(path, [shot] if shot is not None else [])


def write_motion(
    path: Path, rig: Rig, motion: Motion, *, alone: bool = False, in_place: bool = False
) -> tuple[str, ...]:
    """Write a file for another program; sentences about what it cannot hold are returned.

    Args:
        path: the file.
        rig, motion: who does what.
        alone: without the character.
        in_place: the character's own file may be the one that is written.

    Raises:
        FoxHandError: ``output.is_input`` for the character's own files, or if it cannot be
            written; what was there is untouched.
    """
    if not (in_place and path.suffix.lower() in IN_PLACE):
        keep_inputs(path, files_of(Path(rig.source)))
    data, notes = motion_bytes(path.suffix, rig, motion, alone=alone)
    write_atomically(path, data)
    return notes


def write_pose(path: Path, rig: Rig, state: State) -> None:
    """Write the character's file with its nodes standing in a pose.

    Raises:
        FoxHandError: ``pose.not_gltf`` for characters of other kinds, ``file.write``.
    """
    keep_inputs(path, files_of(Path(rig.source)))
    write_atomically(path, pose_bytes(rig, state, path.stem, path.suffix))


def pose_bytes(rig: Rig, state: State, name: str, kind: str = ".glb") -> bytes:
    """The character's file with its nodes standing in a pose.

    Raises:
        FoxHandError: ``pose.not_gltf`` for characters or files of other kinds.
    """
    source = Path(rig.source)
    if source.suffix.lower() not in GLTF or kind.lower() != ".glb":
        raise FoxHandError(
            "pose.not_gltf",
            tr(
                "A pose of {name} cannot be written as {name_2}{kind}.",
                name=rig.name,
                name_2=name,
                kind=kind,
            ),
            tr("Nothing was written."),
            tr("Characters out of glTF files are written as .glb."),
        )
    batch = State(*(values[None] for values in state.arrays()))
    return gltf.posed(source, motion_of(name, rig, batch, 24.0), unit_of(source))
