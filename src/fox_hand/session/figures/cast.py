"""The cast: the characters on the stage, by reference."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.maths.rotations import Array
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.sidecar import sidecar_path
from fox_hand.session.figures.figure import ChangeStep, Figure
from fox_hand.session.figures.playhead import Playhead
from fox_hand.session.figures.snapshot import KeptMember

GAP = 0.12  # metres between two figures that stand side by side


@dataclass
class Absent:
    """A member whose rig file is not where it was: everything known of it is kept.

    Args:
        kept: how it stood, as written down.
        why: a sentence about what is missing and where it was expected.
    """

    kept: KeptMember
    why: str

    @staticmethod
    def of(kept: KeptMember, reason: FoxHandError | None) -> Absent:
        """One whose file is not there, or for that reason cannot be read."""
        what = tr("{path} is not there.", path=kept.path) if reason is None else reason.happened
        member = Absent(kept, "")
        member.why = FoxHandError(
            "cast.missing",
            tr("{name} is not on the stage: {what}", name=member.name, what=what),
            tr("How the character stood and what it does is kept."),
            tr("Put the file back, or choose Find its file on the character's tab."),
        ).sentence()
        return member

    @property
    def prefix(self) -> str:
        return self.kept.prefix

    @property
    def name(self) -> str:
        return self.kept.name or self.kept.prefix

    @property
    def path(self) -> Path:
        return Path(self.kept.path)


Member = Figure | Absent
Mark = tuple[tuple[int, int], ...]


def file_mark(path: Path) -> Mark:
    """What changes when the rig file or its sidecar does: times and sizes."""
    found = []
    for file in (path, sidecar_path(path)):
        try:
            stat = file.stat()
        except OSError:
            found.append((0, -1))
        else:
            found.append((stat.st_mtime_ns, stat.st_size))
    return tuple(found)


@dataclass
class _Held:
    """A member with what the workspace remembers beside it."""

    member: Member
    selected: tuple[int, ...] = ()
    mark: Mark = field(default_factory=tuple)


class Cast:
    """Members in the order of their tabs; one of them acts."""

    changed = Signal()

    def __init__(self) -> None:
        self.timing = Playhead()
        self._held: list[_Held] = []
        self._acting = -1

    def __len__(self) -> int:
        return len(self._held)

    def __iter__(self) -> Iterator[Member]:
        return (held.member for held in self._held)

    @property
    def actors(self) -> tuple[Figure, ...]:
        """Members whose rigs are there."""
        return tuple(m for m in self if isinstance(m, Figure))

    @property
    def acting(self) -> Figure | None:
        """The member that edits go to."""
        if 0 <= self._acting < len(self._held):
            member = self._held[self._acting].member
            return member if isinstance(member, Figure) else None
        return None

    def free_prefix(self, wanted: str, own: Member | None = None) -> str:
        """The prefix, or with the first free number behind it; that of ``own`` counts as free."""
        taken = {m.prefix for m in self if m is not own}
        found, n = wanted, 2
        while found in taken:
            found, n = f"{wanted}_{n}", n + 1
        return found

    def renaming(
        self, actor: Figure, prefix: str, changed: Callable[[], None]
    ) -> ChangeStep | None:
        """Giving a member another prefix, the next that is free; nothing is done yet. None where
        it has that already.

        Args:
            actor, prefix: who, and what.
            changed: called each time it was done or undone.
        """
        before, after = actor.prefix, self.free_prefix(prefix, actor)

        def name(value: str) -> None:
            actor.prefix = value
            self.changed.emit()
            changed()

        if after == before:
            return None
        label = tr("Prefix {after}", after=after)
        return ChangeStep(label, lambda: name(before), lambda: name(after))

    def go(self, frame: float) -> bool:
        """Look at another frame of the shot; everybody follows. False if it is this one."""
        if not self.timing.put(frame):
            return False
        for actor in self.actors:
            actor.look()
        self.timing.moved.emit()
        return True

    def _join(self, member: Member) -> None:
        if isinstance(member, Figure) and member.timing is not self.timing:
            member.timing = self.timing
            member.look()

    def add(self, member: Member, selected: tuple[int, ...] = ()) -> None:
        """A new member at the end. The first actor acts."""
        self._join(member)
        mark = file_mark(member.path) if isinstance(member, Figure) else ()
        self._held.append(_Held(member, selected, mark))
        if self.acting is None and isinstance(member, Figure):
            self._acting = len(self._held) - 1
        self.changed.emit()

    def insert(self, index: int, member: Member) -> None:
        """Put a member back where it was."""
        self._join(member)
        mark = file_mark(member.path) if isinstance(member, Figure) else ()
        self._held.insert(index, _Held(member, (), mark))
        if self._acting >= index:
            self._acting += 1
        if self.acting is None and isinstance(member, Figure):
            self._acting = index
        self.changed.emit()

    def clear(self) -> None:
        """Nobody stands on the stage."""
        self._held.clear()
        self._acting = -1
        self.changed.emit()

    def remove(self, member: Member) -> int:
        """Take a member off the stage; its place is returned."""
        index = self.index(member)
        was = self._held[self._acting].member if 0 <= self._acting < len(self) else None
        del self._held[index]
        rest = [i for i, held in enumerate(self._held) if held.member is was]
        if not rest:
            rest = [i for i, held in enumerate(self._held) if isinstance(held.member, Figure)]
        self._acting = rest[0] if rest else -1
        self.changed.emit()
        return index

    def replace(self, old: Member, new: Member, selected: tuple[int, ...] = ()) -> None:
        """Another member in the same place: a file was found, or lost."""
        self._join(new)
        held = self._held[self.index(old)]
        held.member, held.selected = new, selected
        held.mark = file_mark(new.path) if isinstance(new, Figure) else ()
        if self.acting is None:
            actors = [i for i, h in enumerate(self._held) if isinstance(h.member, Figure)]
            self._acting = actors[0] if actors else -1
        self.changed.emit()

    def act(self, member: Figure) -> None:
        """From now on edits go to this member."""
        self._acting = self.index(member)

    def index(self, member: Member) -> int:
        return next(i for i, held in enumerate(self._held) if held.member is member)

    def selected(self, member: Member) -> tuple[int, ...]:
        """What was selected when the member acted last."""
        return self._held[self.index(member)].selected

    def remember_selected(self, member: Member, rows: Iterable[int]) -> None:
        self._held[self.index(member)].selected = tuple(rows)

    def changed_on_disk(self) -> tuple[Figure, ...]:
        """Actors whose rig file or sidecar is not the one that was read."""
        return tuple(
            held.member
            for held in self._held
            if isinstance(held.member, Figure) and held.mark != file_mark(held.member.path)
        )

    def rigs(self) -> dict[Path, Rig]:
        """The rigs of the actors by their files, those whose files are as they were read."""
        stale = self.changed_on_disk()
        return {actor.path: actor.rig for actor in self.actors if actor not in stale}

    def found_again(self) -> tuple[Absent, ...]:
        """Absent members whose files are there now."""
        return tuple(m for m in self if isinstance(m, Absent) and m.path.is_file())

    def knows(self, actor: Figure, mark: Mark) -> bool:
        """Whether the file of an actor was read when it had this mark."""
        return self._held[self.index(actor)].mark == mark

    def seen(self, actor: Figure, mark: Mark) -> None:
        """The file of an actor was read when it had this mark."""
        self._held[self.index(actor)].mark = mark

    def free_ground(self, rig: Rig) -> Array:
        """Where a new figure stands without touching the others: the middle, then to the right
        of everybody as the audience sees it."""
        if not self.actors:
            return np.zeros(3)
        low, high = rig.rest_bounds
        right = max(float(a.ground[0] + a.rig.rest_bounds[1][0]) for a in self.actors)
        return (
            np.array([right + GAP - float(low[0]), 0.0, 0.0]) if high[0] > low[0] else np.zeros(3)
        )
