"""Every colour of the interface, in one place. Names as in the design; values are sRGB hex."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from fox_hand.core.model.controls import Region  # colours are needed before anything else is


@dataclass(frozen=True)
class Tokens:
    """One theme."""

    window: str
    panel: str
    raised: str
    high: str
    line: str
    line2: str
    field: str
    text: str
    quiet: str
    accent: str
    on_accent: str
    accent_text: str
    warning: str
    warning_ground: str
    good: str
    left: str
    right: str
    centre: str
    figure_fill: str
    figure_raised: str
    figure_line: str
    trough: str  # what segments lie in
    stage_middle: str = "#ECE5D8"
    stage_edge: str = "#CDC2B0"
    paper: str = "#FBF6EC"
    ink: str = "#1B2A33"
    left_sign: str = "#E9B44C"  # letters on ink
    right_sign: str = "#4FB3A5"
    head: str = "#B79AE0"
    eyes: str = "#6CACE4"
    mouth: str = "#E5748F"
    torso: str = "#9DB0B8"
    arms: str = "#93B85C"
    hands: str = "#D58CCB"
    legs: str = "#7F93DC"
    ears: str = "#C6A57F"
    wings: str = "#8FBF9A"
    tail: str = "#B9A0C8"
    limbs: str = "#9FB3BC"

    def region(self, region: Region) -> str:
        """The colour of a region's tab."""
        return str(getattr(self, region.value))


DUSK = Tokens(
    window="#17242B",
    panel="#1E2E36",
    raised="#273A44",
    high="#314853",
    line="#35505C",
    line2="#2A3F49",
    field="#15212A",
    text="#E9EEF0",
    quiet="#A8BAC2",
    accent="#E8793A",
    on_accent="#1B1008",
    accent_text="#F08C4E",
    warning="#F2C46D",
    warning_ground="#3A3424",
    good="#8CC8A0",
    left="#E9B44C",
    right="#4FB3A5",
    centre="#B9C4C9",
    figure_fill="#2B404B",
    figure_raised="#36505D",
    figure_line="#7F97A2",
    trough="#15212A",
)

PAPER = Tokens(
    window="#F1EBE0",
    panel="#FBF8F2",
    raised="#F1EADD",
    high="#E6DCCB",
    line="#D8CFBF",
    line2="#E6DED0",
    field="#FFFFFF",
    text="#22303A",
    quiet="#50606A",
    accent="#E8793A",
    on_accent="#1B1008",
    accent_text="#AD4A10",
    warning="#7A5200",
    warning_ground="#F7E8C4",
    good="#2F7048",
    left="#8A5F00",
    right="#0F766A",
    centre="#596871",
    figure_fill="#EDE5D7",
    figure_raised="#E2D7C4",
    figure_line="#8B8475",
    trough="#EDE5D7",
)

# For those who need more: every pair of words and ground has 7:1, lines have 3:1 (WCAG 2.2, 1.4.6
# and 1.4.11).
DUSK_STRONG = replace(
    DUSK,
    window="#0B1216",
    panel="#10191E",
    raised="#16232A",
    high="#22343D",
    line="#7C939D",
    line2="#52666F",
    field="#05090B",
    text="#FFFFFF",
    quiet="#CBD8DE",
    accent="#F59A62",
    accent_text="#FFB080",
    warning="#FFDB93",
    warning_ground="#29230F",
    good="#B4E8C4",
    left="#FFCB6E",
    right="#7BDACB",
    centre="#DCE5E9",
    figure_fill="#1B2B33",
    figure_raised="#2A4049",
    figure_line="#B4C7CF",
    ink="#0C151A",
    trough="#05090B",
)
PAPER_STRONG = replace(
    PAPER,
    window="#F6F2EA",
    panel="#FFFDF9",
    raised="#F6F0E5",
    high="#EDE4D3",
    line="#7A7160",
    line2="#A89E8B",
    text="#0E161B",
    quiet="#33404A",
    accent="#F59A62",
    accent_text="#7A2F00",
    warning="#563800",
    warning_ground="#FBEFD2",
    good="#174A2B",
    left="#5C3F00",
    right="#07504A",
    centre="#3A464E",
    figure_line="#5C5647",
    ink="#0C151A",
)

THEMES = {"dusk": (DUSK, DUSK_STRONG), "paper": (PAPER, PAPER_STRONG)}  # usual, stronger

# What stands on what: (text, ground). A test holds every pair to 4.5:1 (WCAG 2.2, 1.4.3), and in
# the stronger themes to 7:1 (1.4.6).
TEXT_ON: tuple[tuple[str, str], ...] = (
    ("text", "window"),
    ("text", "panel"),
    ("text", "raised"),
    ("text", "high"),
    ("text", "field"),
    ("quiet", "window"),
    ("quiet", "panel"),
    ("quiet", "raised"),
    ("quiet", "field"),
    ("on_accent", "accent"),
    ("accent_text", "panel"),
    ("accent_text", "raised"),
    ("warning", "warning_ground"),
    ("text", "warning_ground"),
    ("good", "panel"),
    ("good", "raised"),
    ("left", "panel"),
    ("right", "panel"),
    ("centre", "panel"),
    ("left_sign", "ink"),
    ("right_sign", "ink"),
    ("quiet", "high"),
    ("window", "text"),
    ("quiet", "warning_ground"),
    ("warning", "panel"),
    ("warning", "window"),
    ("good", "window"),
    ("text", "trough"),
    ("quiet", "trough"),
    ("left", "raised"),
    ("right", "raised"),
    ("accent_text", "window"),
    ("text", "figure_raised"),
    ("ink", "stage_middle"),
    ("ink", "stage_edge"),
    ("ink", "paper"),
    ("paper", "ink"),
    ("text", "figure_fill"),
)


def contrast(one: str, other: str) -> float:
    """Contrast ratio of two colours, 1...21 (WCAG 2.2, relative luminance)."""

    def luminance(colour: str) -> float:
        parts = []
        for i in (1, 3, 5):
            v = int(colour[i : i + 2], 16) / 255
            parts.append(v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4)
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)
