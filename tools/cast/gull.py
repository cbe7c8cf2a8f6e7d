"""``python -m cast.gull PROJECT``: the gull, a flat puppet in three views.

Its drawings become ``drawings/gull.ora`` with a draft that says what hangs where; the puppet is
made from them with the program's own commands, as anybody's is.
"""

from __future__ import annotations

import io
import sys
from pathlib import Path

import numpy as np
from PIL import Image

from cast.gull_art import Drawings, front, half, side
from fox_hand.core.model.controls import Region, Side
from fox_hand.interchange.drawings.open_raster import StackLayer, open_raster_bytes
from fox_hand.interchange.drawings.svg import svg_picture
from fox_hand.interchange.puppets.puppet_draft import (
    FORMAT,
    VERSION,
    PartNotes,
    PuppetNotes,
    draft_bytes,
    draft_path,
)
from fox_hand.session.puppets.making import puppet_of, write_puppet

SIZE, HEIGHT = (1000, 1000), 0.6
VIEWS = {"Side": side, "Half": half, "Front": front}
Place = tuple[float, float]
# part: what it hangs on, its pivot in each view it is drawn in, how far it turns
PARTS: dict[str, tuple[str, dict[str, Place], tuple[float, float] | None]] = {
    "Body": ("", {"Side": (560, 680), "Half": (500, 680), "Front": (500, 680)}, (-35, 35)),
    "Neck": ("Body", {"Side": (640, 590)}, (-40, 40)),
    "Head": ("Neck", {"Side": (640, 500), "Half": (546, 510), "Front": (500, 520)}, (-60, 50)),
    "Beak": ("Head", {"Side": (768, 285), "Half": (664, 296), "Front": (500, 312)}, (-20, 20)),
    "Eye": ("Head", {"Side": (694, 262)}, None),
    "Eyes": ("Head", {"Half": (560, 256), "Front": (500, 262)}, None),
    "Scarf": ("Body", {"Side": (650, 500), "Half": (552, 510), "Front": (500, 516)}, (-25, 25)),
    "Scarf end": (
        "Scarf",
        {"Side": (692, 520), "Half": (600, 530), "Front": (540, 540)},
        (-100, 100),
    ),
    "Near wing": ("Body", {"Side": (590, 560), "Half": (420, 570)}, (-95, 60)),
    "Far wing": ("Body", {"Side": (650, 545), "Half": (632, 564)}, (-95, 60)),
    "Left wing": ("Body", {"Front": (628, 566)}, (-60, 95)),
    "Right wing": ("Body", {"Front": (372, 566)}, (-95, 60)),
    "Near leg": ("Body", {"Side": (540, 790), "Half": (470, 796)}, (-60, 60)),
    "Far leg": ("Body", {"Side": (622, 780), "Half": (580, 790)}, (-60, 60)),
    "Left leg": ("Body", {"Front": (560, 804)}, (-40, 40)),
    "Right leg": ("Body", {"Front": (440, 804)}, (-40, 40)),
    "Near foot": ("Near leg", {"Side": (540, 906), "Half": (470, 912)}, (-70, 70)),
    "Far foot": ("Far leg", {"Side": (622, 896), "Half": (580, 904)}, (-70, 70)),
    "Left foot": ("Left leg", {"Front": (560, 918)}, (-50, 50)),
    "Right foot": ("Right leg", {"Front": (440, 918)}, (-50, 50)),
    "Tail": ("Body", {"Side": (380, 750)}, (-40, 40)),
}
REGIONS = {
    "Beak": Region.MOUTH,
    "Eye": Region.EYES,
    "Eyes": Region.EYES,
    "Neck": Region.HEAD,
    "Head": Region.HEAD,
    "wing": Region.WINGS,
    "leg": Region.LEGS,
    "foot": Region.LEGS,
    "Tail": Region.TAIL,
}
OTHER = {"Near": "Far", "Far": "Near", "Left": "Right", "Right": "Left"}
SIDES = {"Near": Side.LEFT, "Left": Side.LEFT, "Far": Side.RIGHT, "Right": Side.RIGHT}


def drawn(piece: str) -> Image.Image:
    """A piece of SVG as a picture of the whole canvas."""
    size = f'width="{SIZE[0]}" height="{SIZE[1]}"'
    text = f'<svg xmlns="http://www.w3.org/2000/svg" {size}>{piece}</svg>'
    return Image.open(io.BytesIO(svg_picture(text.encode()))).convert("RGBA")


def layers_of(view: str, drawings: Drawings) -> list[StackLayer]:
    """A view's layers, in front first."""
    found = []
    for part, pieces in drawings.items():
        for number, (word, piece) in enumerate(pieces.items()):
            picture = drawn(piece)
            box = picture.getbbox()
            assert box is not None, (part, word)
            groups = (view, part) if len(pieces) > 1 else (view,)
            name = word if len(pieces) > 1 else part
            pixels = np.asarray(picture.crop(box))
            found.append(StackLayer(name, pixels, box[0], box[1], groups, number == 0))
    return found


def merged() -> Image.Image:
    """What is seen at first."""
    firsts = [next(iter(pieces.values())) for pieces in side().values()]
    return drawn("".join(reversed(firsts)))


def notes() -> PuppetNotes:
    """What is said of the parts."""
    parts = [_note(part, view) for view, make in VIEWS.items() for part in make()]
    return PuppetNotes(FORMAT, VERSION, "Gull", HEIGHT, parts)


def _note(part: str, view: str) -> PartNotes:
    on, pivots, limits = PARTS[part]
    if on == "Neck" and "Neck" not in VIEWS[view]():
        on = "Body"
    first, _, kind = part.partition(" ")
    partner = f"{OTHER[first]} {kind}" if first in OTHER else ""
    region = REGIONS.get(part) or REGIONS.get(kind, Region.TORSO)
    return PartNotes(
        part,
        view,
        on,
        pivots[view],
        SIDES.get(first, Side.CENTRE),
        region,
        partner,
        limits,
        free=part in ("Body", "Head", "Eye", "Eyes"),
        lower="",
    )


def write(project: Path) -> Path:
    """Drawings, draft and puppet.

    Args:
        project: the demo's folder.

    Returns:
        the puppet's model file.
    """
    source = project / "drawings" / "gull.ora"
    layers = [layer for view, make in VIEWS.items() for layer in layers_of(view, make())]
    source.write_bytes(open_raster_bytes(SIZE, layers, np.asarray(merged())))
    draft_path(source).write_bytes(draft_bytes(notes()))
    puppet = puppet_of(source)
    assert not puppet.guesses, puppet.guesses
    assert not puppet.notes, puppet.notes
    return write_puppet(puppet, project / "cast" / "gull.glb", source, HEIGHT).glb


if __name__ == "__main__":
    print(write(Path(sys.argv[1]).absolute()))
