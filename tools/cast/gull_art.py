"""The gull's drawings as pieces of SVG on a canvas of 1000 by 1000, for each of its views.

The side view faces right; what is near is in front of the body, what is far behind it.
"""
# ruff: noqa: E501 - a path is easier to look at in one line than broken in the middle

from __future__ import annotations

WHITE, SHADE, DEEP = "#fbf7ec", "#e3dac6", "#cfc3aa"
GREY, GREY_LINE, FAR_GREY = "#94a7b6", "#7b8f9f", "#75889a"
INK, FAR_INK = "#27303d", "#1f2733"
YELLOW, ORANGE, GAPE, TONGUE = "#f0b63c", "#e2902a", "#8c2b33", "#e58a7d"
PINK, PINK_LINE, FAR_PINK = "#ea9c88", "#cf7f6b", "#cd7e6b"
RED, RED_DARK, RED_LINE = "#e2482b", "#b93722", "#f0725a"
PAPER, FISH, FISH_DARK = "#f6ead0", "#8fb3b8", "#5d868d"
Drawings = dict[str, dict[str, str]]


def fill(colour: str, path: str, round_: float = 0.0) -> str:
    """A filled outline; ``round_`` rounds its corners off."""
    edge = f' stroke="{colour}" stroke-width="{round_}" stroke-linejoin="round"' if round_ else ""
    return f'<path d="{path}" fill="{colour}"{edge}/>'


def line(colour: str, wide: float, path: str) -> str:
    """A line with round ends."""
    return (
        f'<path d="{path}" fill="none" stroke="{colour}" stroke-width="{wide}" '
        'stroke-linecap="round" stroke-linejoin="round"/>'
    )


def dot(colour: str, x: float, y: float, rx: float, ry: float | None = None) -> str:
    """An ellipse."""
    return f'<ellipse cx="{x}" cy="{y}" rx="{rx}" ry="{ry or rx}" fill="{colour}"/>'


def moved(piece: str, x: float, y: float, wide: float = 1.0, high: float | None = None) -> str:
    """Elsewhere and larger or smaller; a negative width turns it over."""
    return f'<g transform="translate({x} {y}) scale({wide} {high or wide})">{piece}</g>'


# -- wings, about their shoulder at 0, 0, pointing back to the left ------------------------------


def wing(grey: str, tip: str) -> dict[str, str]:
    """The four drawings of a wing."""
    vein = GREY_LINE if grey == GREY else "#63768a"
    return {
        "folded": fill(
            grey,
            "M20 -40C70 0 30 100-50 140C-140 185-260 195-350 220C-300 140-210 50-120 0C-60-35-10-55 20-40Z",
        )
        + fill(
            tip,
            "M-255 145C-310 180-370 215-460 250C-475 262-460 272-430 270C-340 258-250 236-180 190Z",
        )
        + dot(WHITE, -372, 236, 11)
        + line(vein, 5, "M-40 90C-110 130-190 150-260 160")
        + line(vein, 5, "M-20 40C-90 90-170 110-230 120"),
        "half out": fill(
            grey,
            "M20-30C50 30-40 90-150 75C-260 55-380 20-470-60C-360-75-250-75-150-65C-80-60-10-60 20-30Z",
        )
        + fill(tip, "M-380 0C-440-30-500-70-560-130C-490-120-420-105-340-68Z")
        + dot(WHITE, -480, -84, 10)
        + line(vein, 5, "M-60 40C-140 35-220 10-300-20")
        + line(vein, 5, "M-60 5C-130 0-200-20-270-45"),
        "up": fill(
            grey,
            "M30-10C20 60-70 50-120-20C-180-110-240-250-250-380C-160-330-60-190 0-90C20-55 32-35 30-10Z",
        )
        + fill(
            tip,
            "M-252-300C-280-370-290-430-280-500C-230-450-185-390-150-310C-185-285-220-285-252-300Z",
        )
        + dot(WHITE, -238, -388, 12)
        + line(vein, 5, "M-50-20C-100-90-140-180-165-255")
        + line(vein, 5, "M-15-40C-60-110-95-180-125-250"),
        "down": fill(
            grey,
            "M10-45C60 10 60 110 10 200C-30 280-100 340-160 375C-185 300-160 200-125 120C-95 50-50-30 10-45Z",
        )
        + fill(
            tip,
            "M-75 290C-110 340-160 390-220 420C-230 370-215 320-175 262C-140 262-105 270-75 290Z",
        )
        + dot(WHITE, -170, 350, 10)
        + line(vein, 5, "M-5 80C-40 160-80 220-115 270")
        + line(vein, 5, "M-40 60C-75 130-105 190-130 240"),
    }


def placed(
    drawings: dict[str, str], x: float, y: float, wide: float, high: float = 0
) -> dict[str, str]:
    """All drawings of a part elsewhere."""
    return {name: moved(piece, x, y, wide, high or abs(wide)) for name, piece in drawings.items()}


# -- the beak from the side, about its root at 0, 0, pointing right ------------------------------

UPPER = "M-8-50C50-62 120-50 158-2C166 14 160 30 140 24C106 8 50 14-8 12Z"
NOSTRIL = line(INK, 6, "M52-22C66-26 78-26 88-22")
TICKET = (
    '<g transform="rotate(16 120 30)">'
    + fill(PAPER, "M70-2H196V52H70Z", 4)
    + line(RED, 7, "M84 12H150")
    + line(INK, 5, "M84 28H180M84 40H140")
    + "</g>"
)
SARDINE = (
    fill(FISH, "M60 6C90-26 170-22 206 8C176 38 92 40 60 6Z")
    + fill(FISH_DARK, "M206 8L246-18V36Z", 4)
    + fill(FISH_DARK, "M60 6C90-26 170-22 206 8C160-2 110-2 60 6Z")
    + dot(WHITE, 84, 4, 8)
    + dot(INK, 84, 4, 4)
)
BEAK = {
    "closed": fill(ORANGE, "M-8 8C50 16 90 16 116 26C94 48 40 44-8 36Z")
    + fill(YELLOW, UPPER)
    + NOSTRIL,
    "open": fill(GAPE, "M-6 6L104 20L88 52L-4 40Z", 6)
    + moved(fill(ORANGE, "M-8 22C40 34 80 46 106 62C78 80 30 72-8 50Z"), 0, 6)
    + fill(YELLOW, UPPER)
    + NOSTRIL,
    "shout": fill(GAPE, "M-8-10L120-40L96 96L-8 50Z", 8)
    + fill(TONGUE, "M-4 36C30 24 62 34 84 66C60 82 20 70-4 52Z")
    + fill(ORANGE, "M-8 44C30 58 66 84 96 116C66 130 16 102-8 70Z")
    + moved(f'<g transform="rotate(-18)">{fill(YELLOW, UPPER)}{NOSTRIL}</g>', 0, -12),
    "ticket": fill(ORANGE, "M-8 12C50 24 86 28 110 38C86 58 36 52-8 42Z")
    + TICKET
    + fill(YELLOW, UPPER)
    + NOSTRIL,
    "fish": fill(GAPE, "M-6 6L80 14L70 36L-4 34Z", 4)
    + fill(ORANGE, "M-8 20C40 34 74 42 100 56C74 74 30 66-8 48Z")
    + moved(SARDINE, -10, 16)
    + fill(YELLOW, UPPER)
    + NOSTRIL,
}


# -- eyes, about their middle ----------------------------------------------------------------------


def eye(x: float = 8.0) -> dict[str, str]:
    """The five drawings of an eye; ``x`` is where it looks."""
    ball = dot(INK, 0, 0, 46) + dot("#ffffff", 0, 0, 39)
    wide = dot(INK, 0, 0, 54) + dot("#ffffff", 0, 0, 47)
    return {
        "open": ball + dot(INK, x, 2, 21) + dot("#ffffff", x + 7, -6, 6),
        "wide": wide + dot(INK, x * 0.8, 0, 15) + dot("#ffffff", x * 0.8 + 5, -5, 4),
        "half": ball
        + dot(INK, x, 10, 19)
        + fill(SHADE, "M-42 2C-42-24-22-42 0-42C22-42 42-24 42 2C20-8-20-8-42 2Z")
        + line(INK, 8, "M-42 2C-20-8 20-8 42 2"),
        "shut": fill(SHADE, "M-40 0C-40-24-20-40 0-40C20-40 40-24 40 0C24 24-24 24-40 0Z")
        + line(INK, 9, "M-42-2C-22 24 22 24 42-2")
        + line(INK, 7, "M-22 16L-28 30M0 20V34M22 16L28 30"),
        "glad": fill(WHITE, "M-40 0A40 40 0 1 1 40 0A40 40 0 1 1-40 0Z")
        + line(INK, 11, "M-38 10C-24-26 24-26 38 10"),
    }


def pair(
    drawings: dict[str, str], left: float, right: float, y: float, size: float
) -> dict[str, str]:
    """Two eyes that look alike, as one part."""
    return {
        name: moved(piece, left, y, size) + moved(piece, right, y, size)
        for name, piece in drawings.items()
    }


# -- scarf and feet ----------------------------------------------------------------------------------

SCARF_END = {
    "hanging": fill(RED_DARK, "M-34-10L38-16L62 128L40 116L22 142L0 122L-24 140Z", 6)
    + line(RED_LINE, 8, "M-18 84L50 76"),
    "blown": fill(
        RED_DARK,
        "M-20-30C-80-30-130 10-214-6L-198 20L-222 36L-192 50L-206 70C-120 86-70 50 0 40Z",
        6,
    )
    + line(RED_LINE, 8, "M-150 0L-146 66"),
}


def foot(colour: str, web: str) -> dict[str, str]:
    """Flat on the ground, and drawn up; about its ankle."""
    return {
        "flat": fill(colour, "M-14-6C-14 12-22 24-40 34L104 34C70 14 40 6 16-6Z", 8)
        + line(web, 5, "M4 14L44 32M0 14L6 32"),
        "curled": fill(colour, "M-14-6C-20 14-14 34 6 48C26 60 52 56 62 44C44 40 26 26 16-6Z", 8)
        + line(web, 5, "M6 18C12 32 24 42 40 46"),
    }


def leg(colour: str, high: float = 120) -> str:
    """From the hip at 0, 0 down to the ankle."""
    return line(colour, 24, f"M0-14V{high}") + dot(colour, 0, high * 0.55, 16)


# -- the views: parts in front first -----------------------------------------------------------------


def side() -> Drawings:
    """It looks to the right; 14 parts."""
    return {
        "Near wing": placed(wing(GREY, INK), 590, 560, 1.0),
        "Scarf end": placed(SCARF_END, 692, 520, 1.0),
        "Scarf": {
            "scarf": fill(
                RED,
                "M540 440C600 486 690 484 742 428C762 446 772 470 770 492C706 560 600 560 534 500C526 480 528 456 540 440Z",
                4,
            )
            + line(RED_LINE, 7, "M560 470C620 512 700 506 752 456")
        },
        "Beak": placed(BEAK, 768, 285, 1.0),
        "Eye": placed(eye(), 694, 262, 1.0),
        "Head": {
            "head": fill(
                WHITE,
                "M556 280C552 196 612 148 678 150C750 152 792 208 784 282C778 334 752 356 746 400C742 452 742 520 700 560C650 604 552 580 532 520C546 452 574 400 566 340C562 314 557 300 556 280Z",
            )
            + fill(SHADE, "M604 196C622 176 646 168 668 168C640 176 620 190 604 196Z")
        },
        "Neck": {
            "neck": fill(
                WHITE,
                "M520 470C580 420 700 420 750 480C770 540 740 620 680 640C600 650 520 600 520 470Z",
            )
        },
        "Near leg": {"leg": moved(leg(PINK), 540, 790)},
        "Near foot": placed(foot(PINK, PINK_LINE), 540, 906, 1.0),
        "Body": {
            "body": fill(
                WHITE,
                "M740 560C770 660 720 780 580 812C450 836 310 806 240 740C290 670 410 570 520 500C610 450 716 470 740 560Z",
            )
            + fill(
                SHADE,
                "M690 740C600 812 420 806 300 758C360 830 480 838 580 812C630 800 668 772 690 740Z",
            )
        },
        "Far leg": {"leg": moved(leg(FAR_PINK), 622, 780)},
        "Far foot": placed(foot(FAR_PINK, "#b46a58"), 622, 896, 1.0),
        "Tail": {
            "tail": fill(
                WHITE,
                "M340 690C260 740 160 800 96 836C88 856 120 862 170 850C250 836 340 830 400 800Z",
                4,
            )
            + fill(SHADE, "M330 800C250 830 180 842 110 850C150 866 260 848 360 822Z")
            + line(DEEP, 5, "M150 836C220 806 280 776 330 750")
        },
        "Far wing": placed(wing(FAR_GREY, FAR_INK), 650, 545, 0.94),
    }


def half_wing(drawings: dict[str, str], x: float, y: float, wide: float) -> dict[str, str]:
    """Seen half from in front: narrower, and close to the body where it is folded."""
    found = placed(drawings, x, y, wide, 0.92)
    turned = f'<g transform="rotate(-38)">{moved(drawings["folded"], 0, 0, 0.8)}</g>'
    return found | {"folded": moved(turned, x, y, 1.0 if wide > 0 else -0.8, 1.0)}


def half() -> Drawings:
    """It looks past us to the right; 12 parts."""
    return {
        "Near wing": half_wing(wing(GREY, INK), 420, 570, 0.72),
        "Scarf end": placed(SCARF_END, 600, 530, 1.0),
        "Scarf": {
            "scarf": fill(
                RED,
                "M420 440C470 492 600 498 668 440C690 458 698 482 692 504C620 566 480 562 412 504C404 482 408 458 420 440Z",
                4,
            )
            + line(RED_LINE, 7, "M438 474C500 520 610 520 674 470")
        },
        "Beak": {name: moved(piece, 664, 296, 0.74, 0.96) for name, piece in BEAK.items()},
        "Eyes": pair(eye(10), 500, 616, 256, 0.88),
        "Head": {
            "head": fill(
                WHITE,
                "M422 290C416 196 482 146 556 148C640 150 700 206 692 290C686 340 668 372 668 420C668 480 660 540 610 572C550 604 440 584 416 524C410 460 440 400 432 344C426 318 423 306 422 290Z",
            )
        },
        "Near leg": {"leg": moved(leg(PINK), 470, 796)},
        "Near foot": {
            name: moved(piece, 470, 912, 0.8, 1.0) for name, piece in foot(PINK, PINK_LINE).items()
        },
        "Body": {
            "body": fill(
                WHITE,
                "M670 570C712 680 676 790 560 822C450 846 350 806 322 720C300 640 340 556 420 508C510 456 640 480 670 570Z",
            )
            + fill(
                SHADE,
                "M652 740C590 812 450 820 344 762C380 826 480 846 560 822C604 808 634 776 652 740Z",
            )
        },
        "Far leg": {"leg": moved(leg(FAR_PINK), 580, 790)},
        "Far foot": {
            name: moved(piece, 580, 904, 0.8, 1.0)
            for name, piece in foot(FAR_PINK, "#b46a58").items()
        },
        "Far wing": half_wing(wing(FAR_GREY, FAR_INK), 632, 564, -0.5),
    }


def front_beak() -> dict[str, str]:
    """Seen from in front, about its root."""
    upper = fill(YELLOW, "M-46-12C-30-46 30-46 46-12C40 26 18 62 0 66C-18 62-40 26-46-12Z")
    holes = line(INK, 6, "M-18-6V2M18-6V2")
    return {
        "closed": moved(
            fill(ORANGE, "M-30 26C-14 66 14 66 30 26C24 74 12 84 0 84C-12 84-24 74-30 26Z"), 0, 0
        )
        + upper
        + holes,
        "open": fill(GAPE, "M-34 20C-30 84 30 84 34 20Z", 6)
        + fill(ORANGE, "M-32 66C-16 84 16 84 32 66C28 100 14 112 0 112C-14 112-28 100-32 66Z")
        + upper
        + holes,
        "shout": fill(GAPE, "M-44 0C-50 124 50 124 44 0Z", 8)
        + fill(TONGUE, "M-24 84C-16 60 16 60 24 84C16 106-16 106-24 84Z")
        + fill(ORANGE, "M-42 96C-20 118 20 118 42 96C36 140 18 152 0 152C-18 152-36 140-42 96Z")
        + moved(upper + holes, 0, -26, 1.08),
        "ticket": fill(ORANGE, "M-30 36C-14 76 14 76 30 36C24 84 12 94 0 94C-12 94-24 84-30 36Z")
        + moved(TICKET, -134, 16)
        + upper
        + holes,
        "fish": fill(GAPE, "M-34 20C-30 70 30 70 34 20Z", 6)
        + fill(ORANGE, "M-32 60C-16 78 16 78 32 60C28 94 14 106 0 106C-14 106-28 94-32 60Z")
        + moved(SARDINE, -150, 34)
        + upper
        + holes,
    }


def front() -> Drawings:
    """It looks at us: its left is at our right; 12 parts."""
    wings = wing(GREY, INK)
    wings["folded"] = (
        fill(GREY, "M20-40C60 10 50 130 0 220C-40 270-60 250-50 180C-40 90-40 0 20-40Z")
        + fill(INK, "M4 190C-6 240-40 290-70 300C-76 270-60 220-46 180Z")
        + line(GREY_LINE, 5, "M14 60C8 110-4 160-18 190")
    )
    return {
        "Beak": placed(front_beak(), 500, 312, 1.0),
        "Eyes": pair(eye(0), 438, 562, 262, 0.92),
        "Scarf end": {
            "hanging": moved(SCARF_END["hanging"], 540, 540),
            "blown": moved(SCARF_END["blown"], 560, 540, -0.9, 0.9),
        },
        "Scarf": {
            "scarf": fill(
                RED,
                "M386 444C440 500 560 500 614 444C636 462 642 490 634 512C570 574 430 574 366 512C358 490 364 462 386 444Z",
                4,
            )
            + line(RED_LINE, 7, "M396 484C460 530 540 530 604 484")
        },
        "Head": {
            "head": fill(
                WHITE,
                "M374 292C370 200 430 146 500 146C570 146 630 200 626 292C620 344 606 376 612 430C618 500 600 560 552 580C520 594 480 594 448 580C400 560 382 500 388 430C394 376 380 344 374 292Z",
            )
        },
        "Right wing": {name: moved(piece, 372, 566, 0.62, 0.9) for name, piece in wings.items()},
        "Left wing": {name: moved(piece, 628, 566, -0.62, 0.9) for name, piece in wings.items()},
        "Body": {
            "body": fill(
                WHITE,
                "M500 480C610 480 668 580 664 680C660 780 590 836 500 836C410 836 340 780 336 680C332 580 390 480 500 480Z",
            )
            + fill(
                SHADE,
                "M640 740C590 816 410 816 360 740C380 810 440 836 500 836C560 836 620 810 640 740Z",
            )
        },
        "Right foot": {
            name: moved(piece, 440, 918, -0.62, 1.0)
            for name, piece in foot(PINK, PINK_LINE).items()
        },
        "Left foot": {
            name: moved(piece, 560, 918, 0.62, 1.0) for name, piece in foot(PINK, PINK_LINE).items()
        },
        "Right leg": {"leg": moved(leg(PINK), 440, 804)},
        "Left leg": {"leg": moved(leg(PINK), 560, 804)},
    }
