"""What is known of an animation before it is read."""

from __future__ import annotations

from dataclasses import dataclass

from fox_hand.base.language import tr


@dataclass(frozen=True)
class AnimationFacts:
    """One animation of a file.

    Args:
        name: as the file calls it.
        rate: frames a second; 0 where that is not known.
        frames: how many; 0 where that is not known.
    """

    name: str
    rate: float = 0.0
    frames: int = 0

    @property
    def words(self) -> str:
        """Its length and rate, in words; empty where nothing is known."""
        if not self.frames or not self.rate:
            return ""
        if self.frames == 1:
            return tr("one pose")
        return tr(
            "{frames:.1f} s, {frames_2} frames at {rate:.4g}",
            frames=(self.frames - 1) / self.rate,
            frames_2=self.frames,
            rate=self.rate,
        )
