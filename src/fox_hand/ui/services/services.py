"""What the window needs from outside."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.session.runtime.ports import Pictures
from fox_hand.ui.services.bridge import Bridge
from fox_hand.ui.services.support import Support


@dataclass(frozen=True)
class Demo:
    """The project that ships with the program.

    Args:
        open: makes the user's copy ready; gives rig files and the library's folder.
        first_shot: the shot it opens with, of the copy that a library belongs to.
        performance: motion to pick poses from.
        first_frame: what of that shot is seen first by somebody who was never there.
        start_host: starts the program that stands in for an animation program.
    """

    open: Callable[[], tuple[tuple[Path, ...], Path]]
    first_shot: Callable[[Path], Path]
    performance: Path
    first_frame: float = 1.0
    start_host: Callable[[], None] = lambda: None


@dataclass(frozen=True)
class Services:
    """Ways out of the window's thread.

    Args:
        pictures: draws.
        bridge: brings answers to the window's thread.
        jobs: works beside the window.
        support: what whoever helps needs to know.
        demo: what is shown to whoever has nothing of their own yet.
        restart: closes the window and opens it anew.
    """

    pictures: Pictures
    bridge: Bridge
    jobs: JobRunner
    demo: Demo
    support: Support = field(default_factory=Support)
    restart: Callable[[], None] = lambda: None
