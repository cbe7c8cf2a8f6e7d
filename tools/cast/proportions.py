"""How the members of the cast are built."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

METRES_PER_HEAD = 0.48
Triple = tuple[float, float, float]


@dataclass(frozen=True)
class HeadBuild:
    """The head in its own frame; its centre is the origin, the crown at y = 0.5."""

    cranium: Triple = (0.43, 0.41, 0.43)
    jaw: Triple = (0.33, 0.30, 0.32)
    chin: float = 0.10
    cheek: float = 0.155
    nose: Triple = (0.075, 0.068, 0.10)
    nose_fillet: float = 0.05
    eye: float = 0.114
    eye_x: float = 0.160
    eye_y: float = 0.035
    ear: float = 0.11
    mouth_width: float = 0.34
    brow: float = 0.034

    @property
    def eye_z(self) -> float:
        """Eyeballs stand proud of a shallow dish."""
        return 0.385 - self.eye * 0.74 + 0.2 * (self.cranium[2] - 0.43)


@dataclass(frozen=True)
class Colours:
    """sRGB colours as hex."""

    skin: str = "#e8a582"
    lip: str = "#c2604f"
    jacket: str = "#2c7683"
    trim: str = "#1f4756"
    trousers: str = "#3b4068"
    boots: str = "#e6ad38"
    sole: str = "#7d5a2c"
    sweater: str = "#efe4cd"
    hat: str = "#cf4f33"
    rim: str = "#dc6144"
    hair: str = "#4d2d1e"
    brow: str = "#43271a"
    iris: str = "#5fa184"
    button: str = "#f0c25a"
    nail: str = "#f3c3ab"
    mouth: str = "#5a171b"
    tongue: str = "#cf5f62"
    teeth: str = "#f6eee0"
    lash: str = "#3a2218"


@dataclass(frozen=True)
class Build:
    """A whole figure. Lengths in heads."""

    name: str
    hip: float = 1.46
    torso: float = 1.0
    neck: float = 0.14
    shoulder: float = 0.42
    hip_width: float = 0.20
    upper_arm: float = 0.53
    forearm: float = 0.49
    hand: float = 0.60
    chest: Triple = (0.35, 0.40, 0.28)
    belly: Triple = (0.36, 0.36, 0.29)
    belly_forward: float = 0.03
    pelvis: Triple = (0.35, 0.26, 0.27)
    sleeve: Triple = (0.165, 0.135, 0.125)
    leg: Triple = (0.185, 0.145, 0.15)
    boot: float = 0.16
    foot: float = 0.36
    hem: float = -0.09
    arm_angle: float = 42.0  # degrees below the horizontal at rest
    hair: Literal["short", "swept", "mop"] = "short"
    hat: bool = True
    beard: bool = False
    sealed: bool = False  # lips that a setting keeps together while the jaw opens
    head: HeadBuild = field(default_factory=HeadBuild)
    colours: Colours = field(default_factory=Colours)


# A hand, in hand lengths: knuckle (x thumb side, y along, z palm), splay in degrees,
# phalanx lengths, radius at knuckle and tip.
FINGERS: dict[str, tuple[Triple, float, Triple, tuple[float, float]]] = {
    "index": ((0.165, 0.455, -0.01), 9, (0.215, 0.150, 0.120), (0.070, 0.056)),
    "middle": ((0.055, 0.485, -0.02), 2, (0.235, 0.160, 0.125), (0.072, 0.057)),
    "ring": ((-0.055, 0.465, -0.01), -6, (0.215, 0.150, 0.120), (0.069, 0.055)),
    "little": ((-0.155, 0.415, 0.01), -16, (0.170, 0.115, 0.105), (0.060, 0.049)),
}
THUMB_ROOT: Triple = (0.115, 0.13, 0.055)
THUMB_DIRECTIONS: tuple[Triple, Triple, Triple] = (
    (0.80, 0.55, 0.25),
    (0.58, 0.78, 0.22),
    (0.46, 0.86, 0.16),
)
THUMB_LENGTHS: Triple = (0.215, 0.175, 0.140)
THUMB_RADII = (0.095, 0.076, 0.069, 0.060)
