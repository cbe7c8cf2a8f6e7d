"""What somebody has animated in the simulated host before anybody links to it."""

from __future__ import annotations

from fox_hand.demo.host.host_scene import BASE, FIX, ChannelKeys, HostFigure

LAST = 72.0
# frames -> value of a control's channel; names without the prefix, degrees or shares
BODY = {
    ("M_chest_ctl", "turn.y"): {1: 0.0, 12: 4.0, 24: -3.0, 44: 5.0, 60: 0.0, 72: 0.0},
    ("M_spine_1_ctl", "turn.z"): {1: 0.0, 24: 3.0, 44: -2.0, 72: 0.0},
    ("M_neck_ctl", "turn.y"): {1: 0.0, 24: -6.0, 44: 4.0, 72: 0.0},
    ("L_arm_ctl", "turn.x"): {1: 0.0, 12: 12.0, 44: 24.0, 60: 12.0, 72: 0.0},
    ("R_arm_ctl", "turn.x"): {1: 0.0, 24: 6.0, 60: 0.0},
}
FACE = {
    ("L_eye_ctl", "browUpL"): {1: 0.0, 9: 0.7, 28: 0.2, 52: 0.6, 64: 0.0},
    ("R_eye_ctl", "browUpR"): {1: 0.0, 9: 0.7, 28: 0.2, 52: 0.6, 64: 0.0},
    ("M_jaw_ctl", "mouthCornerUpL"): {1: 0.1, 20: 0.6, 52: 0.2, 64: 0.1},
    ("M_jaw_ctl", "mouthCornerUpR"): {1: 0.1, 20: 0.6, 52: 0.2, 64: 0.1},
}
HANDS = {
    ("L_finger_index_1_ctl", "turn.x"): {1: 0.0, 24: 8.0, 58: 0.0},
    ("L_finger_middle_1_ctl", "turn.x"): {1: 0.0, 24: 10.0, 58: 0.0},
    ("R_finger_index_1_ctl", "turn.x"): {1: 0.0, 24: 6.0, 58: 0.0},
}
FIXED = {("L_hand_ctl", "turn.z"): {20: 0.0, 37: 6.0, 58: 0.0}}


def animate(figure: HostFigure) -> None:
    """Set the keys on its layers; what a figure does not have is left out."""
    for layer, curves in ((BASE, {**BODY, **FACE, **HANDS}), (FIX, FIXED)):
        for (control, channel), keys in curves.items():
            name = f"{figure.prefix}{control}"
            if channel in figure.still.get(name, {}):
                frames = {float(frame): value for frame, value in keys.items()}
                curve = ChannelKeys(frames, dict.fromkeys(frames, "curve"))
                figure.layers[layer][name, channel] = curve
