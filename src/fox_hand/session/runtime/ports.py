"""What the session needs from rooms it does not know."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from fox_hand.core.view.render_request import Picture, Ready, View

Post = Callable[[Callable[[], None]], None]
"""Runs a function on the thread the session lives on, later."""


class Pictures(Protocol):
    """Draws views, somewhere else, newest first."""

    def submit(self, channel: str, view: View, ready: Ready) -> None:
        """Ask for a picture; ``ready`` may be called on any thread."""

    def forget(self, prefix: str) -> None:
        """Drop what waits on channels that start with ``prefix``."""

    def picture(self, view: View) -> Picture:
        """Draw and wait."""

    def try_again(self) -> None:
        """Draw again after it was given up."""
