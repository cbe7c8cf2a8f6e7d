"""What an animator takes hold of: controls, their channels, and the settings they hold."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from fox_hand.base.language import tr
from fox_hand.core.maths.euler import EulerOrder

AXIS_WORDS = {
    "bend": tr("bend"),
    "twist": tr("twist"),
    "sway": tr("sway"),
    "tip": tr("tip"),
    "spin": tr("spin"),
    "turn": tr("turn"),
    "about x": tr("about x"),
    "about y": tr("about y"),
    "about z": tr("about z"),
}


class Side(StrEnum):
    """Always the character's own side."""

    LEFT = "left"
    RIGHT = "right"
    CENTRE = "centre"

    @property
    def other(self) -> Side:
        return {Side.LEFT: Side.RIGHT, Side.RIGHT: Side.LEFT}.get(self, self)


class Region(StrEnum):
    """Parts of the body, from head to toe; then those that people do not have."""

    HEAD = "head"
    EYES = "eyes"
    MOUTH = "mouth"
    TORSO = "torso"
    ARMS = "arms"
    HANDS = "hands"
    LEGS = "legs"
    # lists of cards keep the numbers of regions, so others come at the end
    EARS = "ears"
    WINGS = "wings"
    TAIL = "tail"
    LIMBS = "limbs"


FACE_REGIONS = frozenset({Region.HEAD, Region.EYES, Region.MOUTH, Region.EARS})
BODY_REGIONS = frozenset(
    {Region.TORSO, Region.ARMS, Region.LEGS, Region.WINGS, Region.TAIL, Region.LIMBS}
)


class ControlKind(StrEnum):
    """Joints turn what they carry; goals, poles and look-at targets stand free and pull a solver;
    holders only hold settings."""

    JOINT = "joint"
    GOAL = "goal"
    POLE = "pole"
    LOOK = "look"
    HOLDER = "holder"


class Channel(StrEnum):
    """The kinds of transform channel a control can have."""

    MOVE = "move"
    TURN = "turn"
    SCALE = "scale"


class MirrorRule(StrEnum):
    """What a setting does when a pose is mirrored: takes its partner's value, stays, changes
    sign, or takes its partner's value with the other sign (a roll about a bone)."""

    SWAP = "swap"
    KEEP = "keep"
    SIGN = "sign"
    SWAP_SIGN = "swap sign"


class SettingKind(StrEnum):
    """A number within a range, a switch, or one of several named options."""

    FLOAT = "float"
    BOOL = "bool"
    CHOICE = "choice"


ALL_CHANNELS = frozenset(Channel)
Limits = tuple[tuple[float, float] | None, ...]
NO_LIMITS: Limits = (None, None, None)


@dataclass(frozen=True)
class Control:
    """What the animator grabs.

    Args:
        name: unique in the rig; what cards refer to.
        label: for the interface.
        kind: see :class:`ControlKind`.
        node: the skeleton node it moves; for a holder the node its handle hangs on.
        offset: where the handle sits in that node's frame, metres.
        order: Euler order its turn is shown and typed in.
        quaternion: the rig stores its turn as a quaternion, so no Euler values are authored.
        side, region: where it belongs on the body.
        role: VRM 1.0 humanoid bone name, where it is one.
        role_sure: from 0 to 1 how sure that is; less than 1 where only the shape says it.
        channels: transform channels it has.
        limits: per Euler axis lowest and highest turn in radians, or None.
        move_limits: the same for moves, in metres.
        locked: single channels the rig's builder has locked, as ``(channel, axis)``.
        partner: name of the control on the other side, its own name for centre controls,
            None where there is none.
        paired_by_hand: a person has said which the partner is.
        axis_labels: words for the turns about x, y and z.
        helper: follows others and is not shown (twist joints and the like).
    """

    name: str
    label: str
    kind: ControlKind
    node: int
    offset: tuple[float, float, float] = (0.0, 0.0, 0.0)
    order: EulerOrder = "XYZ"
    quaternion: bool = False
    side: Side = Side.CENTRE
    region: Region = Region.TORSO
    role: str | None = None
    role_sure: float = 1.0
    channels: frozenset[Channel] = ALL_CHANNELS
    limits: Limits = NO_LIMITS
    move_limits: Limits = NO_LIMITS
    locked: frozenset[tuple[Channel, int]] = frozenset()
    partner: str | None = None
    paired_by_hand: bool = False
    axis_labels: tuple[str, str, str] = ("bend", "twist", "sway")
    helper: bool = False

    @property
    def moves_node(self) -> bool:
        """Whether it has a node of its own, which all but holders of settings have."""
        return self.kind is not ControlKind.HOLDER

    @property
    def axis_words(self) -> tuple[str, str, str]:
        """The labels of its axes for people: our own ones are in their language."""
        x, y, z = (AXIS_WORDS.get(label, label) for label in self.axis_labels)
        return x, y, z


@dataclass(frozen=True)
class Setting:
    """A value a control holds. Switches are 0 or 1, choices the number of the option.

    Args:
        name: unique in the rig.
        label: for the interface.
        control: row of the control that holds it.
        minimum, maximum, default: its range and its value at rest.
        mirror: what it does when a pose is mirrored.
        partner: name of the setting it swaps with.
        kind: see :class:`SettingKind`.
        options: names of a choice's options.
        helper: only driven by others and not shown (corrective shapes and the like).
    """

    name: str
    label: str
    control: int
    minimum: float = 0.0
    maximum: float = 1.0
    default: float = 0.0
    mirror: MirrorRule = MirrorRule.KEEP
    partner: str | None = None
    kind: SettingKind = SettingKind.FLOAT
    options: tuple[str, ...] = ()
    helper: bool = False

    @property
    def words(self) -> str:
        """Its label within a sentence; letters of a side stay large."""
        return " ".join(w if w in ("L", "R") else w.lower() for w in self.label.split())

    @property
    def discrete(self) -> bool:
        """Whether it jumps from one value to the next (switches and choices)."""
        return self.kind is not SettingKind.FLOAT

    def nearest(self, value: float) -> float:
        """The allowed value next to ``value``."""
        kept = min(max(value, self.minimum), self.maximum)
        return float(round(kept)) if self.discrete else kept
