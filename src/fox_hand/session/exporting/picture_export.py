"""Pictures of figures as files: one, one after the other, moving, or from all sides."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Pixels, Quality, Standing, View
from fox_hand.core.view.usual_views import seen_from
from fox_hand.library.files.atomic import make_folder, write_atomically
from fox_hand.library.format.thumb import gif, moving, png, webp

MOST = 20_000
Draw = Callable[[View], Pixels]


@dataclass(frozen=True)
class PictureSequence:
    """What is drawn.

    Args:
        standing: everybody at a frame.
        frames: which frames.
        rate: how many a second.
        turntable: pictures once around, instead of frames; 0 for none.
        width, height: pixels.
        clear: without background.
        camera: from where; None for a three-quarter view of everybody.
        backdrops: what stands behind and before everybody, where there is a background.
    """

    standing: Callable[[float], tuple[Standing, ...]]
    frames: Sequence[int]
    rate: float = 24.0
    turntable: int = 0
    width: int = 640
    height: int = 640
    clear: bool = False
    camera: Camera | None = None
    backdrops: tuple[Standing, ...] = ()


def views(sequence: PictureSequence) -> list[Callable[[], View]]:
    """The pictures, each made when its turn comes.

    Raises:
        FoxHandError: ``render.nobody`` where there is nothing to see, ``render.too_many``.
    """
    count = sequence.turntable or len(sequence.frames)
    if count > MOST:
        raise FoxHandError(
            "render.too_many", tr("These are more than {most} pictures.", most=MOST), ""
        )
    first = sequence.standing(float(sequence.frames[0]))
    if not first:
        raise FoxHandError(
            "render.nobody", tr("There is nobody to draw."), tr("Nothing was written.")
        )
    camera = sequence.camera or _around(sequence)

    def view(standing: tuple[Standing, ...], seen: Camera) -> View:
        drawn = all(one.rig.flat for one in standing)
        return View(
            standing,
            seen,
            sequence.width,
            sequence.height,
            Quality.CARD,
            not sequence.clear,
            backdrops=() if sequence.clear else sequence.backdrops,
            floor=not drawn,
        )

    if sequence.turntable:
        turns = np.linspace(0.0, 2 * np.pi, sequence.turntable, endpoint=False)
        around = [replace(camera, yaw=camera.yaw + float(angle)) for angle in turns]
        return [partial(view, first, seen) for seen in around]

    def at(frame: int) -> View:
        return view(sequence.standing(float(frame)), camera)

    return [partial(at, frame) for frame in sequence.frames]


def _around(sequence: PictureSequence) -> Camera:
    """A frame that holds everybody at the beginning, in the middle and at the end."""
    frames = sequence.frames
    first = sequence.standing(float(frames[0]))
    looks = {frames[0], frames[len(frames) // 2], frames[-1]}
    points = np.concatenate(
        [
            one.rig.flesh(one.at, every=7)
            for f in sorted(looks)
            for one in sequence.standing(float(f))
        ]
    )
    camera = seen_from(first[0].rig, 0.35, 0.06) if first else Camera(yaw=0.35, pitch=0.06)
    return camera.framing(points, sequence.width / sequence.height, 1.12)


def write_drawn(
    path: Path, sequence: PictureSequence, draw: Draw, progress: Progress | None = None
) -> int:
    """Draw and write; returns how many pictures.

    Args:
        path: ``.png`` for one picture, ``.webp`` or ``.gif`` for a moving one (or one WebP), a
            folder for one PNG a frame.
        sequence: what is drawn.
        draw: draws a view.
        progress: of long work.

    Raises:
        FoxHandError: ``render.kind``, ``file.write``.
        Cancelled: if somebody asked to stop; pictures that are written stay.
    """
    kind, made = path.suffix.lower(), views(sequence)
    if kind not in ("", ".png", ".webp", ".gif"):
        raise FoxHandError(
            "render.kind",
            tr("Pictures cannot be written as {kind}.", kind=kind),
            tr("Nothing was written."),
            tr("Use .png, .webp, .gif, or a folder."),
        )
    if not kind:
        make_folder(path)
    frames: list[Pixels] = []
    for number, make in enumerate(made):
        if progress is not None:
            progress.step(
                number / len(made),
                tr("picture {number} of {count}", number=number + 1, count=len(made)),
            )
        pixels = draw(make())
        if kind == "":
            name = number + 1 if sequence.turntable else sequence.frames[number]
            write_atomically(path / f"{path.name}_{name:04d}.png", png(pixels))
        else:
            frames.append(pixels)
        if kind == ".png":
            break
    if kind == ".png":
        write_atomically(path, png(frames[0]))
    elif kind == ".webp":
        whole = len(frames) > 1
        write_atomically(path, moving(frames, sequence.rate) if whole else webp(frames[0]))
    elif kind == ".gif":
        write_atomically(path, gif(frames, sequence.rate))
    return len(frames) if kind else len(made)
