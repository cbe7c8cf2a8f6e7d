"""Faces, mouths and eyes on a rig."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from cast.numbers_file import faces
from cast.poser import Poser

Values = Mapping[str, float | tuple[float, float]]


def neutral(poser: Poser) -> Poser:
    """What every face starts from."""
    return face(poser, faces()["Neutral"].is_)


def face(poser: Poser, amounts: Values) -> Poser:
    """Face settings, jaw, lids and look."""
    values, up, left = _looks(amounts)
    jaw = values.pop("jaw", 0.0)
    poser.setting("jaw_open", round(jaw / 22, 3))
    _lids(poser, values, lambda drop: round((17 * drop - 2 - 0.6 * up) / 52, 3))
    _look(poser, up, left)
    for key, value in values.items():
        poser.setting(key, value)
    return _unsealed(poser, jaw)


def mouth(poser: Poser, amounts: Values) -> Poser:
    """A mouth of the speech chart."""
    values = dict(amounts)
    tongue = values.pop("tongue", None)
    if isinstance(tongue, tuple):
        raised, ahead = tongue
        poser.turn("tongue_1", raised).turn("tongue_2", raised).move("tongue_1", 0, ahead, 0)
    plain = _plain(values)
    for key, value in plain.items():
        poser.setting(key, value)
    return _unsealed(poser, plain.get("jaw_open", 0.0))


def eyes(poser: Poser, amounts: Values) -> Poser:
    """Lids and where the eyes look."""
    values, up, left = _looks(amounts)
    cross = values.pop("cross", 0.0)
    _lids(poser, values, lambda drop: drop)
    return _look(poser, up, left, cross)


def _unsealed(poser: Poser, jaw: float) -> Poser:
    """Lips that are sealed to the jaw come apart where it opens."""
    return poser.setting("lips_sealed", 0.0) if jaw > 0 else poser


def _plain(values: Values) -> dict[str, float]:
    return {key: value for key, value in values.items() if not isinstance(value, tuple)}


def _looks(values: Values) -> tuple[dict[str, float], float, float]:
    look = values.get("look", (0.0, 0.0))
    up, left = look if isinstance(look, tuple) else (look, 0.0)
    return _plain(values), up, left


def _lids(poser: Poser, values: dict[str, float], falls: Callable[[float], float]) -> None:
    """Lids of each side; ``shut`` says how far, ``drop`` how far from where they hang."""
    for side in "LR":
        own = {
            word: values.get(f"{word}_{side}", values.get(word))
            for word in ("shut", "wide", "squint", "slant", "drop")
        }
        shut = own["shut"]
        poser.setting(f"lid_wide_{side}", own["wide"] or 0.0)
        poser.setting(f"lid_squint_{side}", own["squint"] or 0.0)
        poser.setting(f"lid_slant_{side}", round((own["slant"] or 0.0) / 24, 3))
        poser.setting(f"lid_shut_{side}", falls(own["drop"] or 0.0) if shut is None else shut)
    for word in ("shut", "wide", "squint", "slant", "drop"):
        for end in ("", "_L", "_R"):
            values.pop(word + end, None)


def _look(poser: Poser, up: float, left: float, cross: float = 0.0) -> Poser:
    for side, sign in (("L", 1), ("R", -1)):
        poser.turn(f"eye_{side}", up, 0, left * sign - cross)
    return poser
