"""Frames that are laid on the strip to be looked through, one sequence at a time."""

from __future__ import annotations

from collections.abc import Callable

from psygnal import Signal

from fox_hand.base.language import tr
from fox_hand.session.animating.frame_sequence import FrameSequence
from fox_hand.session.animating.keying import Keying
from fox_hand.session.figures.cast import Cast


class FrameReview:
    """Opens, closes and takes over frame sequences.

    Args:
        cast, keying: whose keys the frames may become.
        keep: finishes what is being put on.
        leave: leaves a capture of one of the frames.
    """

    changed = Signal()

    def __init__(
        self, cast: Cast, keying: Keying, keep: Callable[[], None], leave: Callable[[], None]
    ) -> None:
        self._cast, self._keying, self._keep, self._leave = cast, keying, keep, leave
        self.sequence: FrameSequence | None = None

    def open(self, sequence: FrameSequence) -> None:
        """Lay frames on the strip."""
        self.close()
        self._keep()
        sequence.before = sequence.actor.state
        self.sequence = sequence
        self.changed.emit()

    def close(self) -> None:
        """Take them away; the figure stands as it did before."""
        sequence, self.sequence = self.sequence, None
        if sequence is not None:
            self._keep()
            self._leave()
            sequence.close()
            self.changed.emit()

    def lay(self) -> int:
        """Make keys of the frames, the first where we are; returns how many frames that are."""
        sequence, timing = self.sequence, self._cast.timing
        if sequence is None or sequence.actor is not self._cast.acting:
            return 0
        self.close()
        lines = sequence.lines(timing.frame, timing.rate)
        if not lines:
            return 0
        self._keying.change(
            sequence.actor.keys.with_lines(lines), tr("Lay in {name}", name=sequence.name)
        )
        last = max(float(line.frames[-1]) for line in lines.values())
        timing.set_range(timing.first, max(timing.last, round(last)))
        return round(last - timing.frame) + 1
