"""Units of files: read, said by a person, or asked for; never guessed silently."""

from __future__ import annotations

import math
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr

# what people usually mean, and metres per unit (the inch is exact by definition)
UNITS: dict[str, float] = {
    "metres": 1.0,
    "centimetres": 0.01,
    "inches": 0.0254,
    "millimetres": 0.001,
}


WORDS = {
    "metres": tr("metres"),
    "centimetres": tr("centimetres"),
    "inches": tr("inches"),
    "millimetres": tr("millimetres"),
}
USUAL_HEIGHT = 1.7  # metres


def likely_unit(height: float) -> float:
    """The unit in which a figure is nearest to a usual height: metres, centimetres or millimetres.

    Args:
        height: of the figure in units of its file.
    """
    metric = (1.0, 0.01, 0.001)  # a child in centimetres is no giant in inches
    return min(metric, key=lambda size: abs(math.log(max(height, 1e-9) * size / USUAL_HEIGHT)))


def unit_word(name: str) -> str:
    """What people call a unit."""
    return WORDS[name]


class UnitUnknownError(FoxHandError):
    """A file does not say its unit.

    Args:
        path: the file.
        height: of the figure in the file's unit.
    """

    def __init__(self, path: Path, height: float) -> None:
        words = "; ".join(
            tr("in {name} {height:.3g} m", name=unit_word(name), height=height * size)
            for name, size in UNITS.items()
        )
        super().__init__(
            "rig.unit_unknown",
            tr(
                "{name} does not say its unit. The figure would be {words} tall.",
                name=path.name,
                words=words,
            ),
            tr("Nothing that was open has changed."),
            tr("Say which it is: --unit on the command line, or metres_per_unit in the sidecar."),
        )
        self.path, self.height = path, height
