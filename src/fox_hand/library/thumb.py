"""The picture of a card as a file."""

from __future__ import annotations

import io

from PIL import Image

from fox_hand.core.view import Pixels


def png(pixels: Pixels) -> bytes:
    """Opaque pixels ``(height, width, 4)`` as PNG."""
    buffer = io.BytesIO()
    Image.fromarray(pixels[..., :3]).save(buffer, "PNG", optimize=True)
    return buffer.getvalue()
