"""The backdrops of the shot: pictures behind and in front of everybody."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.inputs import CARD, read_file
from fox_hand.base.files.pictures import opened_picture
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.backdrop import Placed, backdrop_rig, standing_at
from fox_hand.core.view.render_request import Standing
from fox_hand.session.figures.figure import ChangeStep
from fox_hand.session.figures.snapshot import KeptBackdrop
from fox_hand.session.runtime.history import History
from fox_hand.session.runtime.jobs import JobRunner

LARGEST = 4096  # pixels of the longer side that are drawn
KINDS = (".png", ".webp", ".jpg", ".jpeg")


def placed(kept: KeptBackdrop) -> Placed:
    """Where one stands."""
    return Placed(kept.near, kept.x, kept.y, kept.height, float(np.radians(kept.yaw)))


def read_backdrop(path: Path) -> Rig:
    """A picture ready for the stage.

    Raises:
        FoxHandError: ``backdrop.unreadable``.
    """
    try:
        with opened_picture(read_file(path, CARD)) as picture:
            found = picture.convert("RGBA")
            found.thumbnail((LARGEST, LARGEST))
            return backdrop_rig(path.name, np.asarray(found))
    except (OSError, SyntaxError, ValueError) as error:
        why = getattr(error, "strerror", None) or tr("it cannot be decoded")
        raise FoxHandError(
            "backdrop.unreadable",
            tr("{name} cannot be shown behind the figures: {why}.", name=path.name, why=why),
            tr("The shot is as it was."),
            tr("Choose a PNG, WebP or JPEG picture."),
        ) from error


class Backdrops:
    """Changes them as undo steps, and reads their pictures beside the window.

    Args:
        history: where steps go.
        jobs: where pictures are read.
    """

    changed = Signal()
    failed = Signal(FoxHandError)

    def __init__(self, history: History, jobs: JobRunner) -> None:
        self._history, self._jobs = history, jobs
        self.kept: tuple[KeptBackdrop, ...] = ()
        self._rigs: dict[str, Rig] = {}
        self._asked: set[str] = set()

    @property
    def standing(self) -> tuple[Standing, ...]:
        """Those whose pictures are read."""
        known = [one for one in self.kept if one.path in self._rigs]
        return tuple(standing_at(self._rigs[one.path], placed(one)) for one in known)

    def of(self, near: bool) -> KeptBackdrop | None:
        """The one in front, or the one behind."""
        return next((one for one in self.kept if one.near == near), None)

    def aspect(self, kept: KeptBackdrop) -> float | None:
        """Width to height of its picture; None while that is not read."""
        rig = self._rigs.get(kept.path)
        return None if rig is None else float(np.ptp(rig.parts[0].positions[:, 0]))

    def choose(self, path: Path, near: bool, place: Callable[[float], Placed]) -> None:
        """Stand another picture there, when it is read; what stood there goes.

        Args:
            path: the picture.
            near: in front, or behind.
            place: where, for its width to height.
        """
        key = str(path.absolute())

        def done(rig: Rig) -> None:
            self._rigs[key] = rig
            aspect = float(np.ptp(rig.parts[0].positions[:, 0]))
            at = place(aspect)
            one = _elsewhere(KeptBackdrop(key, near), at)
            where = tr("in front") if near else "behind"
            self._put(
                tr("Backdrop {where}", where=where),
                [*(k for k in self.kept if k.near != near), one],
            )

        self._jobs.run(lambda progress: _read(path, progress), done, self._failed)

    def move(self, near: bool, at: Placed) -> None:
        """Stand one elsewhere, or make it larger."""
        one = self.of(near)
        if one is not None:
            moved = _elsewhere(one, at)
            self._put(tr("Move the backdrop"), [moved if k is one else k for k in self.kept])

    def take_off(self, near: bool) -> None:
        """Take one away."""
        self._put(tr("Take the backdrop off"), [k for k in self.kept if k.near != near])

    def show(self, kept: list[KeptBackdrop]) -> None:
        """Those of a shot that was opened."""
        self.kept = tuple(kept)
        for one in self.kept:
            self._fetch(one.path)
        self.changed.emit()

    def _fetch(self, key: str) -> None:
        if key in self._rigs or key in self._asked:
            return
        self._asked.add(key)

        def done(rig: Rig) -> None:
            self._asked.discard(key)
            self._rigs[key] = rig
            self.changed.emit()

        def failed(error: Exception) -> None:
            self._asked.discard(key)
            self._failed(error)

        self._jobs.run(lambda progress: _read(Path(key), progress), done, failed)

    def _failed(self, error: Exception) -> None:
        if not isinstance(error, FoxHandError):
            raise error
        self.failed.emit(error)

    def _put(self, label: str, wanted: list[KeptBackdrop]) -> None:
        before, after = list(self.kept), sorted(wanted, key=lambda one: one.near)
        if before != after:
            step = ChangeStep(label, lambda: self.show(before), lambda: self.show(after))
            self.show(after)
            self._history.push(step)


def _elsewhere(kept: KeptBackdrop, at: Placed) -> KeptBackdrop:
    """The same picture elsewhere."""
    yaw = round(float(np.degrees(at.yaw)), 6)
    return KeptBackdrop(kept.path, kept.near, at.x, at.y, at.height, yaw)


def _read(path: Path, progress: Progress) -> Rig:
    progress.step(0.0, tr("Reading {name}", name=path.name))
    return read_backdrop(path)
