"""Copies the manual with its pictures into what is built, so that it is there without the clone,
and adds what a desktop is told (menu entry, icons, kinds of files, ``man``, completion) as data of
the wheel, below ``share``. Everything else that is built is said in ``pyproject.toml``."""

import os
import sys
from pathlib import Path
from shutil import copy2

from setuptools import setup
from setuptools.command.build_py import build_py

ROOT = Path(__file__).resolve().parent
sys.path.insert(0, str(ROOT / "src"))
from fox_hand.base.system.desktop_files import files_for  # noqa: E402 - found there alone

COPIED = (
    ("docs/manual", "*.md", "pages"),
    ("docs/manual/de", "*.md", "pages/de"),
    ("docs/screenshots", "*.png", "screenshots"),
)


class WithManual(build_py):
    """Builds the package and puts the manual beside it."""

    def run(self) -> None:
        super().run()
        where = Path(self.build_lib) / "fox_hand" / "manual"
        for folder, kind, below in COPIED:
            (where / below).mkdir(parents=True, exist_ok=True)
            for path in sorted((ROOT / folder).glob(kind)):
                copy2(path, where / below / path.name)
        for path in sorted(ROOT.glob("CHANGELOG*.md")):
            copy2(path, where / path.name)


def told_to_desktops() -> list[tuple[str, list[str]]]:
    """The files below ``share``, written where the build finds them."""
    found = []
    for place, data in files_for("fox-hand", os.environ.get("FOX_HAND_SITE", "")).items():
        path = Path("build", "desktop", place)
        (ROOT / path).parent.mkdir(parents=True, exist_ok=True)
        (ROOT / path).write_bytes(data)
        found.append((str(Path("share", place).parent), [str(path)]))
    return found


setup(cmdclass={"build_py": WithManual}, data_files=told_to_desktops())
