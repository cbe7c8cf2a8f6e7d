"""Cards of the puppet: drawings, and how it sits on its rail."""

from __future__ import annotations

from collections.abc import Iterator

from cast.gull import DRAWINGS
from cast.numbers_file import GullNumbers, gull
from cast.pictures import Posed, framed
from cast.poser import Poser
from fox_hand.core.model.controls import Channel, Region
from fox_hand.core.pose.pose import ChannelFilter
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera

# what a drawing's picture shows, and where on the body it belongs
PARTS = {
    "beak": (("head", "beak", "eye"), Region.MOUTH),
    "eye": (("head", "beak", "eye"), Region.EYES),
    "wing": (("body", "wing", "head", "beak", "tail"), Region.WINGS),
}
BIRD: tuple[str, ...] = ("body", "tail", "neck", "head", "beak", "eye", "wing", "leg")


def puppet_cards(rig: Rig) -> Iterator[tuple[GullNumbers, Posed]]:
    """Every card of ``numbers/gull.toml``."""
    for numbers in gull():
        yield numbers, _posed(rig, numbers)


def _posed(rig: Rig, numbers: GullNumbers) -> Posed:
    poser = Poser(rig)
    if "perch" not in numbers.drawing:
        poser.setting("perch_drawing", DRAWINGS["perch"].index("rail"))
    for part, word in numbers.drawing.items():
        poser.setting(f"{part}_drawing", DRAWINGS[part].index(word))
    for joint, angle in numbers.turn.items():
        poser.turn(joint, sway=angle)
    parts, region = BIRD, Region.TORSO
    if not numbers.turn:
        parts, region = PARTS[next(iter(numbers.drawing))]
    names = [n for n in rig.skeleton.names if n.startswith(parts) and _is_shown(n, poser)]
    camera = framed(rig, poser.state, names, Camera(yaw=0.0, pitch=0.0), 1.12)
    rows = [rig.control_row[name] for name in numbers.turn]
    turns = ChannelFilter.of(rig, rows, (Channel.TURN,))
    settings = frozenset(rig.setting_row[f"{part}_drawing"] for part in numbers.drawing)
    return Posed(poser.state, camera, ChannelFilter(turns.channels, settings), region)


def _is_shown(name: str, poser: Poser) -> bool:
    """Whether a drawing is the one that is shown; joints always are."""
    part, _, word = name.partition("_")
    if word not in DRAWINGS.get(part, ()):
        return True
    shown = poser.state.settings[poser.rig.setting_row[f"{part}_drawing"]]
    return DRAWINGS[part].index(word) == round(float(shown))
