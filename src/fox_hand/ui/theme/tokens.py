"""Every colour of the interface, in one place. Names as in the design; values are sRGB hex."""

from __future__ import annotations

from dataclasses import dataclass

from fox_hand.core.model.controls import Region


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
    stage_middle: str = "#ECE5D8"
    stage_edge: str = "#CDC2B0"
    paper: str = "#FBF6EC"
    ink: str = "#1B2A33"
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
)

# What stands on what: (text, ground). A test holds every pair to 4.5:1 (WCAG 2.2, 1.4.3).
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
    ("left", "ink"),
    ("right", "ink"),
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
