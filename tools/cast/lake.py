# ruff: noqa: E501 - a path is easier to look at in one line than broken in the middle
"""``python -m cast.lake PROJECT``: the lake behind the gull and the rail's posts before it."""

from __future__ import annotations

import io
import sys
from pathlib import Path

from PIL import Image

from fox_hand.interchange.drawings.svg import svg_picture

SIZE = (2000, 1250)
SKY, SUN, HILLS, NEARER = "#d6e0dc", "#f5e0a6", "#b3c4bf", "#9db5b1"
WATER, WAVE, RAIL, UNDER, POST = "#8fb0b5", "#7ea2a8", "#fbf3e2", "#6f949c", "#f3e6cd"


def _svg(*pieces: str) -> bytes:
    inside = "".join(pieces)
    text = f'<svg xmlns="http://www.w3.org/2000/svg" width="{SIZE[0]}" height="{SIZE[1]}">{inside}</svg>'
    return svg_picture(text.encode())


def _waves(y: int, colour: str, begin: int) -> str:
    """A row of even waves down to the rail."""
    path = f"M{begin} {y}" + "q50 -36 100 0t100 0" * 11 + f"V{y + 300}H{begin}Z"
    return f'<path d="{path}" fill="{colour}"/>'


def behind() -> bytes:
    """Sky, sun, hills, water, and the rail that one can sit on."""
    posts = "".join(
        f'<rect x="{x}" y="1020" width="34" height="230" fill="{POST}"/>'
        for x in range(60, 2000, 230)
    )
    return _svg(
        '<defs><linearGradient id="s" x1="0" y1="0" x2="0" y2="1">'
        f'<stop offset="0" stop-color="{SKY}"/><stop offset="1" stop-color="#e9e6d6"/></linearGradient></defs>',
        '<rect width="2000" height="1250" fill="url(#s)"/>',
        f'<circle cx="300" cy="330" r="120" fill="{SUN}"/>',
        f'<path d="M0 760L180 700 420 600 560 680 760 620 1040 700 1320 560 1560 660 1760 590 2000 680V900H0Z" fill="{HILLS}"/>',
        f'<path d="M0 800L300 730 620 780 980 720 1300 790 1700 720 2000 780V960H0Z" fill="{NEARER}"/>',
        f'<rect y="840" width="2000" height="200" fill="{WATER}"/>',
        _waves(860, "#87abb1", -60),
        _waves(920, WAVE, -140),
        f'<rect y="980" width="2000" height="270" fill="{UNDER}"/>',
        posts,
        f'<rect y="966" width="2000" height="58" fill="{RAIL}"/>',
        '<rect y="1012" width="2000" height="12" fill="#dccfb4"/>',
    )


def before() -> bytes:
    """A post with a ring on it, near the camera, and a rope; the rest is empty."""
    return _svg(
        '<rect x="1760" y="560" width="120" height="690" rx="20" fill="#314652"/>',
        '<rect x="1740" y="530" width="160" height="60" rx="18" fill="#3d5562"/>',
        '<circle cx="1820" cy="820" r="128" fill="none" stroke="#e2482b" stroke-width="56"/>',
        '<circle cx="1820" cy="820" r="128" fill="none" stroke="#fbf3e2" stroke-width="56" stroke-dasharray="100 101" stroke-dashoffset="50"/>',
        '<path d="M0 1120C400 1250 1300 1250 1770 690" fill="none" stroke="#c9a56b" stroke-width="22" stroke-linecap="round"/>',
        '<path d="M0 1120C400 1250 1300 1250 1770 690" fill="none" stroke="#a98447" stroke-width="22" stroke-dasharray="8 26"/>',
    )


def write(project: Path) -> None:
    """Both pictures as WebP."""
    folder = project / "backdrops"
    folder.mkdir(exist_ok=True)
    for name, data in (("lake", behind()), ("quay", before())):
        with Image.open(io.BytesIO(data)) as picture:
            picture.save(folder / f"{name}.webp", quality=90, alpha_quality=100, method=6)


if __name__ == "__main__":
    write(Path(sys.argv[1]))
