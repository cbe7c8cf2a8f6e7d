"""Makes the demo ready for one user."""

from __future__ import annotations

import shutil
import tempfile
from importlib import resources
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.places import Places

NAME = "night-ferry"


def shipped() -> Path:
    """The demo as it ships with the package."""
    return Path(str(resources.files("fox_hand.demo"))) / "night_ferry"


def demo_performance() -> Path:
    """Marrow at work on deck, to pick poses from."""
    return shipped() / "performance" / "on_deck.bvh"


CREW = ("marrow", "pim")


def prepare(places: Places) -> tuple[tuple[Path, ...], Path]:
    """The rig files of those on stage (shipped, never copied), and the user's own copy of the
    library.

    The copy is made once, as a whole or not at all; cards the user adds or changes stay.

    Raises:
        FoxHandError: ``demo.copy`` if it cannot be made.
    """
    library = places.data / NAME / "library"
    if not (library / "library.toml").is_file():
        try:
            library.parent.mkdir(parents=True, exist_ok=True)
            with tempfile.TemporaryDirectory(dir=library.parent) as folder:
                copy = Path(folder) / "library"
                shutil.copytree(shipped() / "library", copy, copy_function=shutil.copyfile)
                copy.replace(library)
        except OSError as error:
            raise FoxHandError(
                "demo.copy",
                f"The demo's library could not be copied to {library} ({error.strerror}).",
                "Nothing was changed.",
                "Make room or get permission to write there, then open the demo again.",
            ) from error
    return tuple(shipped() / "cast" / f"{name}.glb" for name in CREW), library
