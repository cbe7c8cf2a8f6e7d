"""Copies the manual with its pictures into what is built, so that it is there without the clone.
Everything else that is built is said in ``pyproject.toml``."""

from pathlib import Path
from shutil import copy2

from setuptools import setup
from setuptools.command.build_py import build_py

ROOT = Path(__file__).resolve().parent
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


setup(cmdclass={"build_py": WithManual})
