"""Units of files: read, said by a person, or asked for; never guessed silently."""

from __future__ import annotations

from pathlib import Path

from fox_hand.base.errors import FoxHandError

# what people usually mean, and metres per unit (the inch is exact by definition)
UNITS: dict[str, float] = {
    "metres": 1.0,
    "centimetres": 0.01,
    "inches": 0.0254,
    "millimetres": 0.001,
}


class UnitUnknownError(FoxHandError):
    """A file does not say its unit.

    Args:
        path: the file.
        height: of the figure in the file's unit.
    """

    def __init__(self, path: Path, height: float) -> None:
        words = "; ".join(f"in {name} {height * size:.3g} m" for name, size in UNITS.items())
        super().__init__(
            "rig.unit_unknown",
            f"{path.name} does not say its unit. The figure would be {words} tall.",
            "Nothing that was open has changed.",
            "Say which it is: --unit on the command line, or metres_per_unit in the sidecar.",
        )
        self.path, self.height = path, height
