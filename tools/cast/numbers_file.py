"""The numbers that poses of the cast are made of, and what people wrote on their cards."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from pathlib import Path
from typing import Any, TypeVar

import msgspec

FOLDER = Path(__file__).parent / "numbers"
Three = tuple[float, float, float]
Aims = dict[str, tuple[Three, Three]]
Amounts = dict[str, float | tuple[float, float]]
KINDS = ("bodies", "hands", "faces", "mouths", "eyes")


class Words(msgspec.Struct, forbid_unknown_fields=True, kw_only=True):
    """What people wrote on a card.

    Args:
        sheet: the sheet in the sheet of its kind.
        seen: from where its picture is taken, degrees; None for the usual way.
        approved: who locked it.
    """

    name: str
    tags: tuple[str, ...] = ()
    note: str = ""
    author: str = "Ines B."
    licence: str = "Show only"
    approved: str = ""
    sheet: str = ""
    seen: float | None = None


class HandNumbers(Words, kw_only=True):
    """A hand shape; see ``numbers/hands.toml``."""

    fingers: dict[str, tuple[float, float, float, float]]
    thumb: str | tuple[float, float, float, float, float]


class FaceNumbers(Words, kw_only=True):
    """A face, a mouth or a pair of eyes."""

    is_: Amounts = msgspec.field(name="is")


class BodyNumbers(Words, kw_only=True):
    """A body pose; see ``numbers/bodies.toml``."""

    base: str = ""
    ground: bool = False
    lift: float | None = None
    holds: str = ""
    hands: dict[str, str] = {}
    walk: dict[str, str] = {}
    move: dict[str, Three] = {}
    turn: dict[str, Three] = {}
    aim: Aims = {}


class Adjusted(msgspec.Struct, forbid_unknown_fields=True):
    """What is changed of somebody else's pose."""

    move: dict[str, Three] = {}
    turn: dict[str, Three] = {}
    aim: Aims = {}
    is_: Amounts = msgspec.field(name="is", default_factory=dict)


class CrewNumbers(msgspec.Struct, forbid_unknown_fields=True):
    """What somebody of the crew has; see ``numbers/crew.toml``."""

    bodies: tuple[str, ...] = ()
    hands: tuple[str, ...] = ()
    faces: tuple[str, ...] = ()
    mouths: tuple[str, ...] = ()
    eyes: tuple[str, ...] = ()
    said: dict[str, str] = {}
    adjust: dict[str, Adjusted] = {}
    own: tuple[BodyNumbers, ...] = ()

    def names(self, kind: str) -> tuple[str, ...]:
        """Names of a kind."""
        found: tuple[str, ...] = getattr(self, kind)
        return found


class GullNumbers(Words, kw_only=True):
    """A card of the puppet; see ``numbers/gull.toml``."""

    view: str = "Side"
    drawing: dict[str, str] = {}
    turn: dict[str, float] = {}
    move: dict[str, tuple[float, float]] = {}


class ChartNumbers(msgspec.Struct, forbid_unknown_fields=True):
    """A chart of the demo's library; see ``numbers/charts.toml``."""

    ready: str
    filled: dict[str, int]
    lent: tuple[tuple[str, str, str], ...] = ()


Posable = HandNumbers | FaceNumbers | BodyNumbers
One = TypeVar("One", bound=Words)


def _named(file: str, key: str, kind: type[One]) -> dict[str, One]:
    found = [msgspec.convert(one, kind) for one in _raw(file)[key]]
    return {one.name: one for one in found}


def _raw(file: str) -> dict[str, Any]:
    raw: dict[str, Any] = msgspec.toml.decode((FOLDER / file).read_bytes())
    return raw


@cache
def hands() -> dict[str, HandNumbers]:
    return _named("hands.toml", "hand", HandNumbers)


@cache
def faces() -> dict[str, FaceNumbers]:
    return _named("faces.toml", "face", FaceNumbers)


@cache
def mouths() -> dict[str, FaceNumbers]:
    return _named("mouths.toml", "mouth", FaceNumbers)


@cache
def eyes() -> dict[str, FaceNumbers]:
    return _named("eyes.toml", "eyes", FaceNumbers)


@cache
def bodies() -> dict[str, BodyNumbers]:
    return _named("bodies.toml", "body", BodyNumbers)


@cache
def clips() -> dict[str, Words]:
    return _named("clips.toml", "clip", Words)


@cache
def gull() -> tuple[GullNumbers, ...]:
    return msgspec.convert(_raw("gull.toml")["card"], tuple[GullNumbers, ...])


@cache
def gull_clips() -> dict[str, Words]:
    return _named("gull.toml", "clip", Words)


@cache
def crew() -> dict[str, CrewNumbers]:
    return msgspec.convert(_raw("crew.toml"), dict[str, CrewNumbers])


@cache
def charts() -> tuple[ChartNumbers, ...]:
    return msgspec.convert(_raw("charts.toml")["chart"], tuple[ChartNumbers, ...])


def of_kind(kind: str) -> Mapping[str, Posable]:
    """All of a kind by name."""
    if kind == "hands":
        return hands()
    if kind == "bodies":
        return bodies()
    return {"faces": faces, "mouths": mouths, "eyes": eyes}[kind]()
