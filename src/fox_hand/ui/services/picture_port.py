"""What work beside the window needs."""

from __future__ import annotations

from dataclasses import dataclass

from fox_hand.core.view.render_request import Pixels, View
from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.session.runtime.ports import Pictures


@dataclass(frozen=True)
class Drawing:
    """Draws in jobs.

    Args:
        pictures: draws.
        jobs: runs.
    """

    pictures: Pictures
    jobs: JobRunner

    def draw(self, view: View) -> Pixels:
        """One picture; waits for it."""
        return self.pictures.picture(view).pixels
