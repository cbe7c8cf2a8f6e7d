"""What a start can go on with: shots that were open, where they lie and how they were left."""

from __future__ import annotations

import contextlib
import datetime
import threading
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from enum import StrEnum
from pathlib import Path

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.inputs import SHOT, read_file
from fox_hand.base.language import day_text, tr, weekday_text
from fox_hand.base.places import Places
from fox_hand.session.figures.snapshot import KeptCast, cast_path
from fox_hand.session.runtime.ports import Post
from fox_hand.session.shots.project import project_of
from fox_hand.session.shots.shot_file import content_id, read_shot
from fox_hand.session.shots.shots import stage_key

MOUNTS = Path("/proc/self/mounts")
FAR = {  # kinds of file systems that lie on another machine
    *("nfs", "nfs4", "cifs", "smb3", "smbfs", "afs", "ceph", "9p", "glusterfs", "davfs"),
    *("fuse.sshfs", "fuse.rclone", "fuse.davfs2"),
}
NAMED = 3  # figures that are named


class PlaceState(StrEnum):
    """How a shot's place was found."""

    LOOKING = "looking"  # nobody has answered yet
    HERE = "here"
    SHARE = "share"  # on another machine, which answered
    MOVED = "moved"  # the folder answers, the shot is not in it


@dataclass(frozen=True)
class RecentShot:
    """A shot that was open.

    Args:
        path: its file.
        project: the name of its project; empty where it lies in none, or nobody knows yet.
        said: who is in it, and how it was left.
        when: when work on it was last written down.
        state: of its place.
        picture: how it looked; may be missing.
        others: further shots of the same project.
    """

    path: Path
    project: str = ""
    said: str = ""
    when: datetime.datetime | None = None
    state: PlaceState = PlaceState.LOOKING
    picture: Path | None = None
    others: tuple[Path, ...] = ()

    @property
    def name(self) -> str:
        """As people call it."""
        return f"{self.project}, {self.path.stem}" if self.project else self.path.stem


def portrait_path(places: Places, path: Path) -> Path:
    """Where the picture of a shot is kept."""
    return places.cache / "shots" / f"{stage_key(path)}.jpg"


def known_of(places: Places, path: Path) -> RecentShot:
    """What is known of a shot without asking its place: only the user's own folders are read."""
    picture, kept = portrait_path(places, path), cast_path(places, stage_key(path))
    when = None
    with contextlib.suppress(OSError):
        when = datetime.datetime.fromtimestamp(kept.stat().st_mtime).astimezone()
    return RecentShot(path, when=when, picture=picture if picture.is_file() else None)


def looked_at(places: Places, known: RecentShot) -> RecentShot:
    """The same after its place has answered, which may take as long as a share wants."""
    path = known.path
    if not path.is_file():
        return replace(known, state=PlaceState.MOVED)
    project = project_of(path)
    found = replace(
        known,
        project=project.name if project is not None else "",
        state=PlaceState.SHARE if is_far(path) else PlaceState.HERE,
        others=tuple(p for p in project.shot_paths() if p != path) if project is not None else (),
    )
    if found.when is None:
        when = datetime.datetime.fromtimestamp(path.stat().st_mtime).astimezone()
        found = replace(found, when=when)
    try:
        kept = _left(places, path)
        return replace(found, said=_said(kept or read_shot(path), kept is not None))
    except FoxHandError as error:
        return replace(found, said=error.happened)


def _left(places: Places, path: Path) -> KeptCast | None:
    """Work that was written down; whoever opens the shot tells what is wrong with it."""
    try:
        return msgspec.json.decode(
            read_file(cast_path(places, stage_key(path)), SHOT), type=KeptCast
        )
    except (OSError, ValueError, FoxHandError):
        return None


def _said(cast: KeptCast, kept: bool) -> str:
    names = [member.name or member.prefix for member in cast.members]
    who = ", ".join(names[:NAMED]) + (
        tr(" and {count} more", count=len(names) - NAMED) if names[NAMED:] else ""
    )
    where = ""
    if cast.time is not None:
        where = tr("Frame {frame:g} of {last}", frame=cast.time.frame, last=cast.time.last)
    saved = not kept or content_id(cast) == cast.saved
    state = tr("all of it on disk") if saved else tr("with work that is not saved")
    who = who or tr("Nobody")
    return f"{who}. {where}, {state}." if where else f"{who}, {state}."


def is_far(path: Path, mounts: Path = MOUNTS) -> bool:
    """Whether a file lies on another machine."""
    try:
        lines = mounts.read_text("utf-8", "replace").splitlines()
    except OSError:
        return False
    best, far = -1, False
    for line in lines:
        words = line.split(" ")
        if len(words) < 3:
            continue
        at = Path(words[1].replace("\\040", " "))
        if path.is_relative_to(at) and len(at.parts) > best:
            best, far = len(at.parts), words[2] in FAR
    return far


def look(
    places: Places, paths: Iterable[Path], post: Post, came: Callable[[RecentShot], None]
) -> None:
    """Look at every shot beside the window. A place that does not answer holds up nobody, not even
    the end of the program; so these are no jobs.

    Args:
        places: the user's folders.
        paths: the shots.
        post: brings an answer to the window's thread.
        came: is given each as it answers; what goes wrong is the state of that one.
    """

    def work(path: Path) -> None:
        known = known_of(places, path)
        try:
            found = looked_at(places, known)
        except OSError:
            found = replace(known, state=PlaceState.MOVED)
        post(lambda: came(found))

    for path in paths:
        threading.Thread(target=work, args=(path,), daemon=True, name="look").start()


def day_words(when: datetime.datetime, now: datetime.datetime) -> str:
    """When something was: the time of day, yesterday, a weekday, or a date."""
    days = (now.date() - when.date()).days
    if days <= 0:
        return tr("today, {when:%H:%M}", when=when)
    if days == 1:
        return tr("yesterday, {when:%H:%M}", when=when)
    if days < 7:
        return weekday_text(when)
    return day_text(when.date().isoformat(), with_year=when.year != now.year)
