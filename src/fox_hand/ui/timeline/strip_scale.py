"""Which frames the strip shows, and where."""

from __future__ import annotations

from dataclasses import dataclass, replace

FEWEST, MOST = 20.0, 20_000.0  # frames from edge to edge
STEPS = (1, 2, 3, 6, 12, 24, 48, 120, 240, 480, 1200, 2400, 4800)
ROOM = 40.0  # pixels behind the last frame, for what stands on it
APART = 44  # pixels between two numbers of the ruler, at least


@dataclass(frozen=True)
class Scale:
    """A stretch of frames over a stretch of pixels.

    Args:
        left, right: pixels.
        first: frame at the left edge.
        pitch: pixels a frame.
    """

    left: float
    right: float
    first: float = 0.0
    pitch: float = 9.4

    @property
    def width(self) -> float:
        return max(self.right - self.left, 1.0)

    @property
    def last(self) -> float:
        """Frame at the right edge."""
        return self.first + self.width / self.pitch

    def x_of(self, frame: float) -> float:
        return self.left + (frame - self.first) * self.pitch

    def frame_at(self, x: float) -> float:
        return self.first + (x - self.left) / self.pitch

    def placed(self, left: float, right: float) -> Scale:
        """Over other pixels, the same frames as far as they go."""
        return replace(self, left=left, right=right)._kept()

    def panned(self, pixels: float) -> Scale:
        """Moved along; positive shows later frames."""
        return replace(self, first=self.first + pixels / self.pitch)._kept()

    def zoomed(self, x: float, factor: float) -> Scale:
        """Nearer (above 1) or farther, the frame under ``x`` stays there."""
        frame = self.frame_at(x)
        pitch = min(max(self.pitch * factor, self.width / MOST), self.width / FEWEST)
        return replace(self, pitch=pitch, first=frame - (x - self.left) / pitch)._kept()

    def showing(self, first: float, last: float) -> Scale:
        """A range with a little room at its ends."""
        count = min(max(last - first, FEWEST - 1.0), MOST)
        pitch = max(self.width - 12 - ROOM, 40.0) / count
        return replace(self, pitch=pitch, first=first - 12 / pitch)._kept()

    def revealing(self, frame: float) -> Scale:
        """Moved only as far as it takes to have a frame in sight."""
        room = min(24.0, self.width / 4) / self.pitch
        if frame < self.first + room / 2:
            return replace(self, first=frame - room)._kept()
        if frame > self.last - room / 2:
            return replace(self, first=frame + room - self.width / self.pitch)._kept()
        return self

    def _kept(self) -> Scale:
        pitch = min(max(self.pitch, self.width / MOST), self.width / FEWEST)
        first = max(self.first, -24 / pitch)
        return (
            self
            if (pitch, first) == (self.pitch, self.first)
            else replace(self, pitch=pitch, first=first)
        )

    def ticks(self) -> tuple[int, int]:
        """Frames between two numbers, and between two ticks."""
        numbers = next((s for s in STEPS if s * self.pitch >= APART), STEPS[-1])
        small = next((s for s in STEPS if s * self.pitch >= 5 and numbers % s == 0), numbers)
        return numbers, small
