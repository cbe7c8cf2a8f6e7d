"""Seeing what others do to open libraries: at once on this machine, now and then on a share."""

from __future__ import annotations

import contextlib
import os
import threading
from collections.abc import Callable
from functools import partial
from pathlib import Path

from watchfiles import Change, watch

from fox_hand.base.errors import FoxHandError
from fox_hand.library.files.file_system import is_remote
from fox_hand.library.format.library_file import unreachable
from fox_hand.library.format.schema import SUFFIX
from fox_hand.session.libraries.library_reads import STOPPED
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.runtime.ports import Post

AGAIN = 1.0  # seconds between two looks for a library that is away
SETTLE = 200  # milliseconds in which changes are gathered
LOOK = 1500  # milliseconds between two looks whether the folder is still there
POLL = 10.0  # seconds between two looks through a share
MANY = 300  # with more changed files, all are compared


class Watching:
    """One thread for each open library; each only waits, and posts what it saw.

    Args:
        shelf: whose libraries.
        post: brings a function to the session's thread.
        poll: seconds between two looks through a share.
    """

    def __init__(self, open_libraries: OpenLibraries, post: Post, poll: float = POLL) -> None:
        self._open_libraries, self._post, self._poll = open_libraries, post, poll
        self._watches: dict[int, _Watch] = {}
        open_libraries.changed.connect(self.follow)
        self.follow()

    def follow(self) -> None:
        """Watch exactly what is on the shelf."""
        numbers = {p.number for p in self._open_libraries.places}
        for number in [n for n in self._watches if n not in numbers]:
            self._watches.pop(number).stop()
        for place in self._open_libraries.places:
            if place.number not in self._watches and (place.ready or place.problem is not None):
                self._watches[place.number] = _Watch(place, self._poll, self._seen)

    def _seen(self, place: OpenLibrary, what: Callable[[OpenLibraries, OpenLibrary], None]) -> None:
        self._post(lambda: what(self._open_libraries, place))

    def stop(self) -> None:
        """End all threads."""
        self._open_libraries.changed.disconnect(self.follow)
        for one in self._watches.values():
            one.stop()
        for one in self._watches.values():
            one.join()
        self._watches.clear()


class _Watch:
    """A thread that waits for changes of one library."""

    def __init__(
        self,
        place: OpenLibrary,
        poll: float,
        seen: Callable[[OpenLibrary, Callable[[OpenLibraries, OpenLibrary], None]], None],
    ) -> None:
        self._place, self._poll, self._seen = place, poll, seen
        self._stop = threading.Event()
        self._away = not place.ready
        self._between = True
        self._thread = threading.Thread(target=self._run, name="watch", daemon=True)
        self._thread.start()

    def stop(self) -> None:
        self._stop.set()

    def join(self) -> None:
        self._thread.join(5.0)

    def _run(self) -> None:
        folder = self._place.folder
        while not self._stop.is_set():
            if not self._there():
                self._stop.wait(AGAIN)
            elif is_remote(folder) or not _nameable(folder):
                self._stop.wait(self._poll)
                self._seen(self._place, _look_again)
            else:
                self._listen(folder)

    def _there(self) -> bool:
        """Whether the library can be reached, saying so when that changes."""
        error: FoxHandError | None = None
        try:
            (self._place.folder / "library.toml").stat()
        except OSError as problem:
            error = unreachable(self._place.folder, problem)
        if error is not None and not self._away:
            lost = error
            self._seen(self._place, lambda open_libraries, place: open_libraries.lose(place, lost))
        elif error is None and (self._away or self._place.problem is not None):
            # there again, or it was only for a moment that it could not be read
            self._seen(self._place, _look_again)
        self._away = error is not None
        return error is None

    def _listen(self, folder: Path) -> None:
        folders = _folders_in(folder)
        # every folder by itself: a recursive watch would first walk through all cards, and the
        # window could not answer meanwhile
        changes = watch(
            *filter(_nameable, folders),
            recursive=False,
            watch_filter=partial(_of_interest, folder),
            debounce=SETTLE,
            step=50,
            stop_event=self._stop,
            rust_timeout=LOOK,
            yield_on_timeout=True,
            raise_interrupt=False,
            ignore_permission_denied=True,
        )
        try:
            for found in changes:
                if self._between:  # what happened until these folders were watched
                    self._between = False
                    self._seen(self._place, _look_again)
                if found:
                    self._tell({Path(path) for _, path in found})
                if not self._there():
                    return
                if not all(path.endswith(SUFFIX) for _, path in found):
                    self._between = _folders_in(folder) != folders
                    if self._between:
                        return
                if self._place.waiting:
                    self._seen(
                        self._place,
                        lambda open_libraries, place: open_libraries.came_back.emit(place),
                    )
        except (OSError, RuntimeError):  # gone, or the system has no watches left
            self._stop.wait(self._poll)
            self._seen(self._place, _look_again)

    def _tell(self, paths: set[Path]) -> None:
        cards = {path for path in paths if path.name.endswith(SUFFIX)}
        if cards != paths or len(cards) > MANY:  # sheets came, went or were described anew
            self._seen(self._place, _look_again)
        elif cards:
            self._seen(self._place, lambda open_libraries, place: open_libraries.look(place, cards))


def _folders_in(root: Path) -> set[Path]:
    """A library's folder and its sheets."""
    found, stack = {root}, [root]
    while stack:
        with contextlib.suppress(OSError), os.scandir(stack.pop()) as items:
            for item in items:
                if not item.name.startswith(".") and item.is_dir(follow_symlinks=False):
                    stack.append(Path(item.path))
                    found.add(stack[-1])
    return found


def _nameable(folder: Path) -> bool:
    """Whether the system's watches can be asked about it; names from old disks are no UTF-8."""
    try:
        str(folder).encode()
    except UnicodeEncodeError:
        return False
    return True


def _look_again(open_libraries: OpenLibraries, place: OpenLibrary) -> None:
    problem = place.problem
    if problem is None or problem.code != STOPPED:  # by a person, who reads it again when they like
        open_libraries.look_again(place)


def _of_interest(folder: Path, change: Change, path: str) -> bool:
    """Everything but what begins with a dot below the library."""
    del change
    try:
        parts = Path(path).relative_to(folder).parts
    except ValueError:
        return False
    return not any(part.startswith(".") for part in parts)
