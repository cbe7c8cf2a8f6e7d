"""Two people, or a person and a version control system, at one shot: nothing is lost."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.inputs import SHOT, read_file
from fox_hand.base.language import tr
from fox_hand.base.system.clock import written
from fox_hand.library.files.atomic import write_new
from fox_hand.session.shots.shot_file import SUFFIX, content_id, read_shot

Mark = tuple[int, int, int]


def mark_of(path: Path) -> Mark | None:
    """What changes when a file does; None where it is not there."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_mtime_ns, found.st_size, found.st_ino


def content_of(path: Path) -> str | None:
    """What is in a shot's file; None where it is not there or cannot be understood.

    Raises:
        FoxHandError: ``version.newer``: it is not ours to write over.
    """
    try:
        return content_id(read_shot(path))
    except FoxHandError as error:
        if error.code == "version.newer":
            raise
        return None


def set_aside(path: Path, known: Collection[str]) -> Path | None:
    """Keep what somebody else wrote into a shot's file as a file beside it.

    Args:
        path: the shot.
        known: what this window has read there or written, and what it is to write.

    Returns:
        where theirs lies now; None where the file holds what was known, or nothing.

    Raises:
        FoxHandError: ``version.newer``, or ``file.write`` where theirs could not be kept; the file
            is as they left it.
    """
    if not path.exists() or content_of(path) in known:
        return None
    try:
        data = read_file(path, SHOT)
    except OSError as error:
        raise FoxHandError(
            "shot.unreadable",
            tr(
                "{name} was changed since you opened it and cannot be read to keep it.",
                name=path.name,
            ),
            tr("It was left as they saved it."),
            tr("Save as keeps yours under another name."),
        ) from error
    return write_new(_names(path), data)


def _names(path: Path) -> Iterator[Path]:
    when = written(path)
    stem = f"{path.stem} (theirs {when:%Y-%m-%d %H.%M.%S})"
    yield path.with_name(f"{stem}{SUFFIX}")
    for number in range(2, 1000):
        yield path.with_name(f"{stem} {number}{SUFFIX}")


def told_aside(path: Path, aside: Path, who: str) -> FoxHandError:
    """What is said to the one who saved."""
    return FoxHandError(
        "shot.theirs_kept",
        tr("{stem} had been saved {by} since you opened it.", stem=path.stem, by=by(who)),
        tr("That version lies beside it as {name}; yours is in the file now.", name=aside.name),
        tr("Open it to take over what you need."),
    )


OWN_WINDOW = tr("another window of yours")


def by(who: str) -> str:
    """Who did it, in words; nobody is blamed who is not known."""
    return (
        tr("in {who}", who=who)
        if who == OWN_WINDOW
        else tr("by {who}", who=who)
        if who
        else tr("elsewhere")
    )


def told_changed(path: Path, who: str) -> FoxHandError:
    """What is said to the one whose shot was saved by somebody else."""
    return FoxHandError(
        "shot.changed",
        tr("{stem} was saved {by} while you have it open.", stem=path.stem, by=by(who)),
        tr("What you see is yours and is kept."),
        tr("Saving keeps that version beside yours; the menu has the way back to the file."),
    )
