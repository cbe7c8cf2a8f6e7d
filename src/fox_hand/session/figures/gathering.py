"""Reading everybody of a stage before anybody is placed: a stage is set whole, or not at all."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from types import MappingProxyType

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.lines_file import LineBook
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.snapshot import KeptMember, kept_member, wake

NOBODY: Mapping[Path, Rig] = MappingProxyType({})


@dataclass(frozen=True)
class Arrival:
    """One character that was asked for.

    Args:
        path: its file.
        kept: how it stood; None for a newcomer.
        actor: who was read, standing as written down; None where the file cannot be.
        error: why not.
        selected: rows that were selected.
        book: knows what it does in the shot as it is written down.
    """

    path: Path
    kept: KeptMember | None
    actor: Figure | None = None
    error: FoxHandError | None = None
    selected: tuple[int, ...] = ()
    book: LineBook = field(default_factory=LineBook)


def gather(
    members: Sequence[tuple[Path, KeptMember | None]],
    progress: Progress,
    known: Mapping[Path, Rig] = NOBODY,
) -> tuple[Arrival, ...]:
    """Read the characters; copies of one file are read once.

    Args:
        members: their files, and how they stood.
        progress: of long work.
        known: rigs on the stage whose files are as they were read; copies share them.

    Raises:
        Cancelled: if somebody asked to stop.
    """
    rigs = dict(known)
    found = []
    for number, (path, kept) in enumerate(members):
        progress.step(number / max(len(members), 1), path.name)
        try:
            rigs[path] = rigs.get(path) or read_rig(path)
        except FoxHandError as error:
            found.append(Arrival(path, kept, None, error))
            continue
        except MemoryError:
            found.append(Arrival(path, kept, None, _too_much(path)))
            continue
        _ = rigs[path].rest_bounds  # measured here, not in the window
        found.append(arrived(path, kept, rigs[path]))
    return tuple(found)


def arrived(path: Path, kept: KeptMember | None, rig: Rig) -> Arrival:
    """Somebody with a rig that was read. All that takes long of their keys and clips is done here,
    not in the window."""
    if kept is None:
        return Arrival(path, None, Figure(rig, path))
    actor, book = Figure(rig, path, kept.prefix), LineBook()
    selected = wake(actor, kept)
    for instance in actor.take.instances:
        _ = instance.length, instance.envelope
    kept_member(actor, selected, book=book)
    return Arrival(path, kept, actor, None, selected, book)


def _too_much(path: Path) -> FoxHandError:
    return FoxHandError(
        "memory.full",
        tr("{name} does not fit into this machine's memory any more.", name=path.name),
        tr("Who stands on the stage stays."),
        tr("Take somebody off the stage, or close other programs, then open it again."),
    )
