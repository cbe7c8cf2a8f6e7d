"""A simulated network share: a folder that goes away, refuses to be written, and comes back."""

from __future__ import annotations

import shutil
import stat
import time
from collections.abc import Callable
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.scratch import scratch_folder
from fox_hand.base.language import tr
from fox_hand.demo.demo_project import shipped

AWAY = "-away"


class Share:
    """One folder, and what can be wrong with it.

    Args:
        folder: the share as others see it.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._away = folder.with_name(folder.name + AWAY)

    @staticmethod
    def made(folder: Path) -> Share:
        """A share with a copy of the demo's library; one that is there is used, and mended if it
        was left away.

        Raises:
            FoxHandError: ``demo.share`` if it cannot be made.
        """
        share = Share(folder)
        try:
            share.come_back()
            if not (folder / "library.toml").is_file():
                folder.parent.mkdir(parents=True, exist_ok=True)
                with scratch_folder(folder.parent) as beside:
                    copy = beside / "share"
                    library = shipped() / "library"
                    shutil.copytree(library, copy, copy_function=shutil.copyfile)
                    text = (copy / "library.toml").read_text("utf-8")
                    renamed = text.replace("Night Ferry show", "Studio share")
                    (copy / "library.toml").write_text(renamed, "utf-8")
                    copy.replace(folder)
        except OSError as error:
            raise FoxHandError(
                "demo.share",
                tr(
                    "The share could not be made in {folder} ({strerror}).",
                    folder=folder,
                    strerror=error.strerror,
                ),
                "",
            ) from error
        return share

    def go_away(self) -> None:
        """As if the cable was pulled."""
        if self.folder.exists():
            self.folder.rename(self._away)

    def refuse(self) -> None:
        """Nobody may write."""
        for path in (self.folder, *(p for p in self.folder.rglob("*") if p.is_dir())):
            path.chmod(stat.S_IMODE(path.stat().st_mode) & ~0o222)

    def come_back(self) -> None:
        """Whole again."""
        if self._away.exists() and not self.folder.exists():
            self._away.rename(self.folder)
        if self.folder.exists():
            for path in (self.folder, *(p for p in self.folder.rglob("*") if p.is_dir())):
                path.chmod(stat.S_IMODE(path.stat().st_mode) | 0o700)

    def be_flaky(
        self,
        there: float,
        away: float,
        rounds: int,
        say: Callable[[str], object],
        wait: Callable[[float], object] = time.sleep,
    ) -> None:
        """Work well for a while, then not, in turns, until there were enough (0 goes on)."""
        done = 0
        troubles = ((tr("is away"), self.go_away), (tr("can only be read"), self.refuse))
        try:
            while not rounds or done < rounds:
                say(tr("The share works."))
                wait(there)
                word, trouble = troubles[done % len(troubles)]
                trouble()
                say(tr("The share {word}.", word=word))
                wait(away)
                self.come_back()
                done += 1
        except KeyboardInterrupt:
            say(tr("Stopped."))
        finally:
            self.come_back()
