"""Pictures of cards: halved, cropped, straight colours, and how long moving ones stand."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image

from fox_hand.base.errors import FoxHandError
from fox_hand.library.format.thumb import Square, cropped, gif, halved, moving, png, webp


def opened(data: bytes) -> Image.Image:
    return Image.open(io.BytesIO(data))


def test_half_the_size_has_the_means_of_fours() -> None:
    pixels = np.random.default_rng(1).integers(0, 256, (8, 6, 4), dtype=np.uint8)
    means = pixels.reshape(4, 2, 3, 2, 4).astype(float).mean(axis=(1, 3))
    assert np.abs(halved(pixels) - means).max() <= 0.5
    assert halved(np.full((2, 2, 4), 255, np.uint8)).tolist() == [[[255] * 4]]


def test_see_through_pixels_have_their_own_colour_in_files() -> None:
    """Premultiplied: 60 at alpha 120 is half of full red."""
    pixels = np.zeros((4, 4, 4), np.uint8)
    pixels[..., 0], pixels[..., 3] = 60, 120
    pixels[0, 0] = 0
    pixels[1, 1] = (200, 0, 0, 100)  # more than there can be
    image = opened(png(pixels))
    assert image.mode == "RGBA"
    straight = np.array(image)
    assert straight[3, 3].tolist() == [128, 0, 0, 120]  # 60 x 255 / 120, to the nearest
    assert straight[0, 0].tolist() == [0, 0, 0, 0] and straight[1, 1].tolist() == [255, 0, 0, 100]
    opaque = np.full((4, 4, 4), 255, np.uint8)
    assert opened(png(opaque)).mode == "RGB" and opened(webp(opaque)).mode == "RGB"
    assert opened(webp(pixels)).mode == "RGBA"


def frames(count: int, *, clear: bool = False) -> list[np.ndarray]:
    made = []
    for number in range(count):
        pixels = np.full((16, 16, 4), 255, np.uint8)
        pixels[:, : number + 1, :3] = 0
        if clear:
            pixels[0] = 0
        made.append(pixels)
    return made


@pytest.mark.parametrize("rate", [24.0, 30.0, 12.5])
def test_moving_pictures_last_as_long_as_they_should(rate: float) -> None:
    for data, grain in ((moving(frames(9), rate), 1), (gif(frames(9), rate), 10)):
        image = opened(data)
        assert getattr(image, "n_frames", 0) == 9
        times = []
        for number in range(9):
            image.seek(number)
            image.load()
            times.append(image.info["duration"])
        assert sum(times) == pytest.approx(9000.0 / rate, abs=grain)
        assert max(times) - min(times) <= grain
        assert image.info.get("loop") == 0
    assert opened(moving(frames(3, clear=True), rate)).mode == "RGBA"


def test_a_gif_keeps_colours_that_come_late() -> None:
    made = [np.full((8, 8, 4), 255, np.uint8) for _ in range(7)]
    made[-1][..., :3] = (0, 0, 200)
    image = opened(gif(made, 24.0))
    image.seek(getattr(image, "n_frames", 1) - 1)
    assert np.abs(np.array(image.convert("RGB"))[4, 4].astype(int) - [0, 0, 200]).max() < 12


def test_a_part_of_a_picture_becomes_both_sizes() -> None:
    picture = Image.new("RGB", (100, 60), "white")
    picture.paste((200, 0, 0), (40, 10, 80, 50))
    buffer = io.BytesIO()
    picture.save(buffer, "PNG")
    small, large = cropped(buffer.getvalue(), Square(40, 10, 40))
    for data, size in ((small, 320), (large, 640)):
        image = opened(data)
        assert image.size == (size, size)
        inner = np.array(image.convert("RGB")).astype(int)[24:-24, 24:-24]
        assert np.abs(inner - [200, 0, 0]).max() < 24
    turned = picture.getexif()
    turned[0x0112] = 6  # the camera was held upright
    buffer = io.BytesIO()
    picture.save(buffer, "JPEG", exif=turned, quality=95)
    upright = opened(cropped(buffer.getvalue(), Square(10, 40, 40))[0]).convert("RGB")
    assert np.abs(np.array(upright)[160, 160].astype(int) - [200, 0, 0]).max() < 25
    for mode in ("L", "RGBA", "P", "1"):
        buffer = io.BytesIO()
        picture.convert(mode).save(buffer, "PNG")
        found = opened(cropped(buffer.getvalue(), Square(0, 0, 20))[0])
        assert (found.mode == "RGBA") == (mode in ("RGBA", "P"))
    with pytest.raises(FoxHandError) as caught:
        cropped(b"no picture", Square(0, 0, 1))
    assert caught.value.code == "picture.unreadable"
