"""Cards of the puppet: how it stands in its views, drawings that take turns, and its clips."""

from __future__ import annotations

from collections.abc import Iterator

from cast.clips import Made, Moments, channel_ids, keyed
from cast.gull import VIEWS
from cast.numbers_file import GullNumbers, gull
from cast.pictures import Posed, framed
from cast.poser import Poser
from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.model.controls import Channel, Region
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import ChannelFilter
from fox_hand.core.rig.rig import Rig
from fox_hand.core.rig.views import VIEW
from fox_hand.core.view.usual_views import seen_from
from fox_hand.session.puppets.drawing_cards import drawing_of

# what a drawing's picture shows, and where on the body it belongs
SHOWN = {
    "Beak": (("Head", "Beak", "Eye", "Eyes"), Region.MOUTH),
    "Eye": (("Head", "Beak", "Eye"), Region.EYES),
    "Near wing": (("Body", "Near wing", "Head", "Tail", "Beak", "Eye"), Region.WINGS),
    "Near foot": (("Near leg", "Near foot", "Far leg", "Far foot", "Body"), Region.LEGS),
}
FLAP = (("up", 0.0), ("half out", 2.0), ("down", 4.0), ("half out", 6.0), ("up", 8.0))
WINK = (("open", 0.0), ("half", 2.0), ("shut", 3.0), ("half", 5.0), ("open", 6.0))


def control(view: str, part: str) -> str:
    """The name of a part's control."""
    word = part.lower().replace(" ", "_")
    return word if view == "Side" else f"{view.lower()}_{word}"


def option(rig: Rig, view: str, part: str, word: str) -> tuple[str, float]:
    """The choice of a part's drawing, and which number a drawing has."""
    name = f"{control(view, part)}_drawing"
    return name, float(rig.settings[rig.setting_row[name]].options.index(word))


class Acting:
    """The puppet in one of its views, posed by words."""

    def __init__(self, rig: Rig, view: str = "Side", state: State | None = None) -> None:
        self._rig, self._view = rig, view
        self._poser = Poser(rig) if state is None else Poser.of(rig, state)
        self._poser.setting(VIEW, list(VIEWS).index(view))
        self.rows: dict[int, set[Channel]] = {}
        self.settings: set[int] = set()

    def draw(self, part: str, word: str) -> Acting:
        """Show a drawing."""
        name, number = option(self._rig, self._view, part, word)
        self._poser.setting(name, number)
        self.settings.add(self._rig.setting_row[name])
        return self

    def turn(self, part: str, degrees: float) -> Acting:
        """Turn a part, counterclockwise."""
        name = control(self._view, part)
        self._poser.turn(name, sway=degrees)
        self.rows.setdefault(self._rig.control_row[name], set()).add(Channel.TURN)
        return self

    def move(self, part: str, x: float, y: float) -> Acting:
        """Move a part, metres."""
        name = control(self._view, part)
        self._poser.move(name, x, y, 0.0)
        self.rows.setdefault(self._rig.control_row[name], set()).add(Channel.MOVE)
        return self

    @property
    def state(self) -> State:
        return self._poser.state

    @property
    def choice(self) -> ChannelFilter:
        """What was said."""
        channels = {row: frozenset(kinds) for row, kinds in self.rows.items()}
        return ChannelFilter(channels, frozenset(self.settings))


def puppet_cards(rig: Rig) -> Iterator[tuple[GullNumbers, Posed]]:
    """Every card of ``numbers/gull.toml``."""
    for numbers in gull():
        yield numbers, _posed(rig, numbers)


def _posed(rig: Rig, numbers: GullNumbers) -> Posed:
    acting = Acting(rig, numbers.view)
    for part, word in numbers.drawing.items():
        acting.draw(part, word)
    for part, angle in numbers.turn.items():
        acting.turn(part, angle)
    for part, (x, y) in numbers.move.items():
        acting.move(part, x, y)
    parts, region = tuple(VIEWS[numbers.view]()), Region.TORSO
    if not numbers.turn and numbers.drawing:
        parts, region = SHOWN[next(iter(numbers.drawing))]
    choice = acting.choice
    if numbers.sheet == "Views":
        choice = ChannelFilter({}, frozenset({rig.setting_row[VIEW]}))
    names = _drawings(rig, numbers.view, parts)
    camera = framed(rig, acting.state, names, seen_from(rig, 0.0, 0.0), 1.12)
    drawing = None
    if numbers.sheet == "Beak":
        row = rig.control_row["beak"]
        number = rig.swaps[row].names.index(numbers.drawing["Beak"])
        drawing = drawing_of(rig, row, number)
    return Posed(acting.state, camera, choice, region, drawing=drawing)


def _drawings(rig: Rig, view: str, parts: tuple[str, ...]) -> list[str]:
    """Nodes of the drawings of some parts."""
    wanted = {control(view, part) for part in parts if part in VIEWS[view]()}
    return [n for n in rig.skeleton.names if n.rpartition("__")[0] in wanted]


def puppet_clips(rig: Rig) -> Iterator[Made]:
    """In the order of their sheet."""
    head, every = ("Head", "Beak", "Eye"), tuple(VIEWS["Side"]())
    blink = [(at, Acting(rig).draw("Eye", word).state) for word, at in WINK]
    yield _made(rig, "Blink", blink, ["Eye"], 3.0, head, Region.EYES)
    bob = [
        (float(at), _bobbing(Acting(rig), lean).state)
        for at, lean in ((0, 0.0), (6, -3.0), (12, 0.0), (18, 2.0), (24, 0.0))
    ]
    turned = ("Body", "Head", "Tail", "Near leg", "Far leg")
    yield _made(rig, "Bob", bob, [], 6.0, every, Region.TORSO, turned, free=False)
    flap = [
        (at, Acting(rig).draw("Near wing", word).draw("Far wing", word).state) for word, at in FLAP
    ]
    wings = ["Near wing", "Far wing"]
    yield _made(rig, "Wing flap", flap, wings, 4.0, every, Region.WINGS)
    yield _take_off(rig, every)


def _bobbing(acting: Acting, lean: float) -> Acting:
    """The body goes to and fro over legs that stand still."""
    acting.turn("Body", lean).turn("Near leg", -lean).turn("Far leg", -lean)
    return acting.turn("Head", 1.6 * lean).turn("Tail", 1.4 * lean)


def _take_off(rig: Rig, every: tuple[str, ...]) -> Made:
    moments = []
    for at, up, lean, wing, foot in (
        (0, 0.0, 0, "folded", "flat"),
        (3, -0.03, -10, "half out", "flat"),
        (5, 0.0, 6, "up", "flat"),
        (7, 0.05, 14, "down", "curled"),
        (9, 0.09, 12, "half out", "curled"),
        (11, 0.13, 10, "up", "curled"),
        (13, 0.19, 12, "down", "curled"),
        (16, 0.26, 8, "up", "curled"),
    ):
        acting = Acting(rig).move("Body", 0.004 * at, up).turn("Body", lean).turn("Head", -lean)
        for part in ("Near wing", "Far wing"):
            acting.draw(part, wing)
        for part in ("Near foot", "Far foot"):
            acting.draw(part, foot)
        moments.append((float(at), acting.state))
    drawn = ["Near wing", "Far wing", "Near foot", "Far foot"]
    return _made(rig, "Take off", moments, drawn, 13.0, every, Region.TORSO, ("Body", "Head"))


def _made(
    rig: Rig,
    name: str,
    moments: Moments,
    drawn: list[str],
    look: float,
    parts: tuple[str, ...],
    region: Region,
    turned: tuple[str, ...] = (),
    *,
    free: bool = True,
) -> Made:
    """A clip of drawings and of parts that turn."""
    names = [control("Side", part) for part in turned]
    chosen = channel_ids(rig, names, (Channel.TURN,))
    if free:
        chosen += channel_ids(rig, [n for n in names if n == "body"], (Channel.MOVE,))
    choices = [f"{control('Side', part)}_drawing" for part in drawn]
    chosen += [ChannelId(ChannelKind.SETTING, choice) for choice in choices]
    clip = keyed(rig, moments, chosen, Ease.SMOOTH, 24.0)
    nodes = tuple(_drawings(rig, "Side", parts))
    return Made(name, clip, look, nodes, 0.0, region, flat=True)
