"""Pictures of others: how large one is, is known before it is unpacked."""

from __future__ import annotations

import io
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING

from fox_hand.base.language import tr

if TYPE_CHECKING:
    from PIL import Image

MOST_PIXELS = 8192 * 8192  # four bytes each; a picture of few bytes may unpack to any size
SIDE = 65_535


class TooManyPixelsError(OSError):
    """A picture that would fill the memory."""

    def __init__(self, width: int, height: int) -> None:
        super().__init__(
            0, tr("it is {width:,} by {height:,} pixels large", width=width, height=height)
        )


@contextmanager
def opened_picture(data: bytes) -> Iterator[Image.Image]:
    """A picture in any format, not yet unpacked.

    Raises:
        OSError, SyntaxError, ValueError: if it cannot be decoded, also while it is.
        TooManyPixelsError: beyond :data:`MOST_PIXELS`.
    """
    from PIL import Image  # noqa: PLC0415 - loading it takes longer than many commands

    source = io.BytesIO(data)
    try:
        if data.startswith(b"\x89PNG"):
            # the usual case, without loading the readers of all other formats
            from PIL.PngImagePlugin import PngImageFile  # noqa: PLC0415

            picture: Image.Image = PngImageFile(source)
        else:
            picture = Image.open(source)
    except Image.DecompressionBombError as error:
        raise TooManyPixelsError(SIDE, SIDE) from error
    with picture:
        width, height = picture.size
        if width * height > MOST_PIXELS or max(width, height) > SIDE:
            raise TooManyPixelsError(width, height)
        yield picture
