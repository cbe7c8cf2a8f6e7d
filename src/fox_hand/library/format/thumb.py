"""The pictures of a card as files."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from PIL import Image, ImageOps

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.pictures import opened_picture
from fox_hand.base.language import tr
from fox_hand.core.view.render_request import Pixels

SIZES = 320, 640  # of the pictures in a card


@dataclass(frozen=True)
class Square:
    """A part of a picture, pixels from its upper left corner."""

    left: float
    top: float
    edge: float


def cropped(data: bytes, square: Square) -> tuple[bytes, bytes]:
    """A part of a picture file as the two pictures of a card.

    Args:
        data: PNG, JPEG, WebP or what else Pillow reads; one turned by its camera is set upright.
        square: which part, of the upright picture.

    Raises:
        FoxHandError: ``picture.unreadable``.
    """
    right, bottom = square.left + square.edge, square.top + square.edge
    box = (square.left, square.top, right, bottom)
    try:
        with opened_picture(data) as picture:
            upright = ImageOps.exif_transpose(picture)
            solid = upright.mode in ("1", "L", "RGB", "CMYK", "YCbCr")
            plain = upright.convert("RGB" if solid else "RGBA")
            small, large = (
                plain.resize((size, size), Image.Resampling.LANCZOS, box, reducing_gap=3.0)
                for size in SIZES
            )
    except (OSError, SyntaxError, ValueError) as error:
        raise FoxHandError(
            "picture.unreadable",
            tr("The picture cannot be read."),
            tr("The card has the picture it had."),
            tr("Choose a PNG, JPEG or WebP file."),
        ) from error
    files = io.BytesIO(), io.BytesIO()
    small.save(files[0], "PNG", compress_level=6)
    large.save(files[1], "WEBP", quality=90, method=4)
    return files[0].getvalue(), files[1].getvalue()


def halved(pixels: Pixels) -> Pixels:
    """Pixels ``(2 h, 2 w, 4)``, premultiplied, at half the size ``(h, w, 4)``: means of fours."""
    wide = pixels.astype(np.uint16)
    rows = wide[::2] + wide[1::2]
    return ((rows[:, ::2] + rows[:, 1::2] + 2) // 4).astype(np.uint8)


def png(pixels: Pixels) -> bytes:
    """Pixels ``(height, width, 4)``, premultiplied, as PNG; without alpha where all are opaque."""
    buffer = io.BytesIO()
    opaque = bool((pixels[..., 3] == 255).all())
    image = Image.fromarray(pixels[..., :3] if opaque else _straight(pixels))
    # level 9 takes eight times as long and saves a fifteenth
    image.save(buffer, "PNG", compress_level=6)
    return buffer.getvalue()


def webp(pixels: Pixels) -> bytes:
    """The same as WebP of a quality that eyes cannot tell from the PNG, at a sixth of its size."""
    buffer = io.BytesIO()
    opaque = bool((pixels[..., 3] == 255).all())
    image = Image.fromarray(pixels[..., :3] if opaque else _straight(pixels))
    image.save(buffer, "WEBP", quality=90, method=4)
    return buffer.getvalue()


def moving(frames: Sequence[Pixels], rate: float) -> bytes:
    """Frames of one size as a WebP that plays them in a loop.

    Args:
        frames: each ``(height, width, 4)``, premultiplied.
        rate: frames a second.
    """
    images = [
        Image.fromarray(f[..., :3] if (f[..., 3] == 255).all() else _straight(f)) for f in frames
    ]
    ends = np.round(np.arange(len(frames) + 1) * 1000.0 / rate).astype(int)
    return _played(images, "WEBP", ends, quality=78, method=3)


def gif(frames: Sequence[Pixels], rate: float) -> bytes:
    """Frames of one size as a GIF that plays them in a loop, 256 colours for all of them. GIF
    counts in hundredths of a second, so the times are spread as evenly as it can."""
    images = [Image.fromarray(f[..., :3]) for f in frames]
    ends = np.round(np.arange(len(frames) + 1) * 100.0 / rate).astype(int) * 10
    # colours of frames from the whole way, so that none that comes late is lost
    some = sorted({round(part * (len(frames) - 1)) for part in np.linspace(0.0, 1.0, 9)})
    palette = Image.fromarray(np.concatenate([frames[n][..., :3] for n in some])).quantize(255)
    small = [image.quantize(palette=palette) for image in images]
    return _played(small, "GIF", ends)


def _played(
    images: Sequence[Image.Image], kind: str, ends: npt.NDArray[np.int_], **how: int
) -> bytes:
    """Pictures one after the other without an end; ``ends`` are milliseconds, ``(F + 1,)``."""
    times, buffer = np.diff(ends).tolist(), io.BytesIO()
    images[0].save(
        buffer, kind, save_all=True, append_images=images[1:], duration=times, loop=0, **how
    )
    return buffer.getvalue()


def _straight(pixels: Pixels) -> Pixels:
    """Colours divided by their alpha, as PNG has them."""
    alpha = pixels[..., 3:].astype(np.float64)
    colours = pixels[..., :3] * 255.0 / np.maximum(alpha, 1.0)
    return np.concatenate([np.minimum(np.rint(colours), 255), alpha], axis=-1).astype(np.uint8)
