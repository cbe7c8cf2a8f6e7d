"""The demo with a few cards of each kind, so that every test can have a library of its own."""

from __future__ import annotations

import shutil
from dataclasses import replace
from pathlib import Path

from fox_hand.demo import demo_project
from fox_hand.library.format.library_file import read_library_file, write_library_file

WHOLE = demo_project.SOURCE
CARDS = {
    "Marrow/Hands": ("Relaxed", "Fist", "Tense", "Open wide", "Point", "Flat", "Two-finger", "Fox"),
    "Marrow/Face": ("Neutral", "Glad", "Sad", "Angry", "Afraid", "Surprised", "Disgusted"),
    "Marrow/Body": ("Stand easy", "Wave", "Point across", "Sit on bollard", "Crouch", "Arms up"),
    "Marrow/Clips": (
        "Blink",
        "Blink, film",
        "Double blink",
        "Nod",
        "Breathe",
        "Wave loop",
        "Walk loop",
    ),
}


def make_small_demo(folder: Path) -> Path:
    """The shipped demo, with these cards and no others."""
    for part in ("cast", "shots", "performance", "backdrops"):
        shutil.copytree(WHOLE / part, folder / part)
    shutil.copyfile(WHOLE / "project.toml", folder / "project.toml")
    library = folder / "library"
    for sheet, names in CARDS.items():
        (library / sheet).mkdir(parents=True)
        for name in names:
            shutil.copyfile(
                WHOLE / "library" / sheet / f"{name}.foxcard", library / sheet / f"{name}.foxcard"
            )
    shutil.copytree(WHOLE / "library" / ".foxhand", library / ".foxhand")
    whole = read_library_file(WHOLE / "library")
    write_library_file(library, replace(whole, sheets=tuple(CARDS), searches=()))
    return folder
