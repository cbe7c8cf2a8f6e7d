"""Makes the demo ready for one user."""

from __future__ import annotations

import shutil
from importlib import resources
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.scratch import scratch_folder
from fox_hand.base.language import tr
from fox_hand.base.places import Places
from fox_hand.library.files.atomic import what_to_do

NAME = "night-ferry"


SOURCE = Path(str(resources.files("fox_hand.demo"))) / "night_ferry"


def shipped() -> Path:
    """The demo as it ships with the package."""
    return SOURCE


def demo_performance() -> Path:
    """Marrow at work on deck, to pick poses from."""
    return shipped() / "performance" / "on_deck.bvh"


CREW = ("marrow", "pim")
PARTS = (
    "library",
    "cast",
    "shots",
    "drawings",
    "backdrops",
    "project.toml",
)  # the last makes it a project, so it is last
FIRST_SHOT, FIRST_FRAME = "nf_010", 57.0


def prepare(places: Places) -> tuple[tuple[Path, ...], Path]:
    """The rig files of those on stage, and the library, both of the user's own copy of the
    project; its folder is the library's parent.

    Every part is copied once, as a whole or not at all; what the user adds or changes stays.

    Raises:
        FoxHandError: ``demo.copy`` if it cannot be made.
    """
    folder = places.data / NAME
    for part in PARTS:
        _copied(shipped() / part, folder / part)
    return tuple(folder / "cast" / f"{name}.glb" for name in CREW), folder / "library"


def first_shot(library: Path) -> Path:
    """The shot that the demo opens with, of the copy that a library belongs to."""
    return library.parent / "shots" / f"{FIRST_SHOT}.foxshot"


def _copied(source: Path, target: Path) -> None:
    if target.exists() or not source.exists():
        return
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        with scratch_folder(target.parent) as folder:
            copy = folder / target.name
            if source.is_dir():
                shutil.copytree(source, copy, copy_function=shutil.copyfile)
            else:
                shutil.copyfile(source, copy)
            copy.replace(target)
    except OSError as error:
        raise FoxHandError(
            "demo.copy",
            tr(
                "The demo could not be copied to {target} ({strerror}).",
                target=target,
                strerror=error.strerror,
            ),
            tr("Nothing was changed."),
            tr("{what_to_do} Then open the demo again.", what_to_do=what_to_do(error)),
        ) from error
