"""What the window needs from outside."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from fox_hand.session.runtime.jobs import Jobs
from fox_hand.session.runtime.ports import Pictures
from fox_hand.ui.services.bridge import Bridge
from fox_hand.ui.services.support import Support


@dataclass(frozen=True)
class Doors:
    """Ways out of the window's thread.

    Args:
        pictures: draws.
        bridge: brings answers to the window's thread.
        jobs: works beside the window.
        support: what whoever helps needs to know.
        open_demo: makes the demo project ready; gives rig files and library folder.
    """

    pictures: Pictures
    bridge: Bridge
    jobs: Jobs
    open_demo: Callable[[], tuple[tuple[Path, ...], Path]]
    support: Support = field(default_factory=Support)
