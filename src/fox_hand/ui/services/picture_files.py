"""Picture files into pictures of the toolkit and back, in any thread.

The toolkit's own readers and writers hold a lock of theirs while they ask a device for bytes. A
device that is made in Python needs the interpreter for that, which another thread may hold while it
waits for the very lock: then the whole program stands still. So they are never given one.
"""

from __future__ import annotations

import io
from collections.abc import Iterator

from PIL import Image, ImageOps
from PySide6.QtGui import QImage

from fox_hand.base.files.pictures import opened_picture

SUFFIXES = frozenset({".png", ".jpg", ".jpeg", ".webp", ".gif", ".bmp"})
OPAQUE = QImage.Format.Format_RGB32
READY = QImage.Format.Format_ARGB32_Premultiplied
SOLID = ("1", "L", "RGB", "CMYK", "YCbCr")  # modes in which nothing shows through
QUALITY = 92
MOST_FRAMES = 1000  # a minute of film at 16 a second; the picture of a card is shorter
WRONG = (OSError, SyntaxError, ValueError)  # what a damaged picture raises


def decoded(data: bytes | None) -> QImage:
    """The picture in a file's bytes; a null image where there is none that can be read."""
    if data is None:
        return QImage()
    try:
        with opened_picture(data) as picture:
            return _image(picture)
    except WRONG:
        return QImage()


def frames_in(data: bytes) -> Iterator[tuple[QImage, int]]:
    """The frames of a moving picture one by one and how many milliseconds each is shown; those
    before a damaged one."""
    try:
        with opened_picture(data) as picture:
            for number in range(min(getattr(picture, "n_frames", 1), MOST_FRAMES)):
                picture.seek(number)
                image = _image(picture)  # which also says how long, for this kind of file
                yield image, int(picture.info.get("duration", 0))
    except (*WRONG, EOFError):
        return


def encoded(image: QImage) -> bytes:
    """As PNG where something shows through, else as JPEG."""
    solid = not image.hasAlphaChannel()
    kind = QImage.Format.Format_RGB888 if solid else QImage.Format.Format_RGBA8888
    plain = image.convertToFormat(kind)
    mode = "RGB" if solid else "RGBA"
    size, line = (plain.width(), plain.height()), plain.bytesPerLine()
    picture = Image.frombuffer(mode, size, bytes(plain.constBits()), "raw", mode, line, 1)
    buffer = io.BytesIO()
    if solid:
        picture.save(buffer, "JPEG", quality=QUALITY)
    else:
        picture.save(buffer, "PNG")
    return buffer.getvalue()


def _image(picture: Image.Image) -> QImage:
    picture = ImageOps.exif_transpose(picture)  # as its camera was held
    width, height = picture.size
    if picture.mode in SOLID:
        plain, kind = picture.convert("RGB"), QImage.Format.Format_RGB888
        return QImage(plain.tobytes(), width, height, width * 3, kind).convertToFormat(OPAQUE)
    whole, kind = picture.convert("RGBA"), QImage.Format.Format_RGBA8888
    return QImage(whole.tobytes(), width, height, width * 4, kind).convertToFormat(READY)
