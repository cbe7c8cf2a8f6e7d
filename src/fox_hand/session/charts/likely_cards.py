"""Cards that look like what a slot is to be: like the card that shows it, or by what settings of
the face do."""

from __future__ import annotations

import math
from collections.abc import Mapping

from fox_hand.base.errors import FoxHandError
from fox_hand.core.naming.face_roles import face_roles
from fox_hand.library.charts.filling import LEAST, Filling
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.alike import numbers_of
from fox_hand.library.index.index import IndexDamagedError
from fox_hand.session.charts.chart_board import ChartBoard, Place
from fox_hand.session.libraries.open_library import OpenLibrary

MOST = 4  # cards proposed for a slot
SAMPLES = 200  # slots that are looked through; the finder takes its time for each


def likely_cards(place: OpenLibrary, board: ChartBoard) -> dict[Place, list[tuple[str, float]]]:
    """For every empty slot, cards of its character that look like it and how much, best first.

    Args:
        place: where the cards lie.
        board: the chart without them.
    """
    found: dict[Place, list[tuple[str, float]]] = {}
    empty = board.missing()[:SAMPLES]
    doing = {one.slot.key: one.slot.settings for one in empty if one.slot.settings}
    by_role = _by_role(place, empty, doing) if doing else {}
    like: dict[str, list[tuple[Entry, float]]] = {}  # by the card that shows it
    for one in empty:
        near = by_role.get((one.slot.key, one.character), [])
        sample = _named(place, one.slot.pose) or board.sample(one.slot, one.character)
        if sample is not None:
            if sample.identity not in like:
                like[sample.identity] = _like_sample(place, sample)
            same = one.character.casefold()
            cards = like[sample.identity]
            near += [(e.identity, s) for e, s in cards if e.character.casefold() == same]
        best: dict[str, float] = {}
        for identity, share in near:
            best[identity] = max(share, best.get(identity, 0.0))
        if best:
            ranked = sorted(best.items(), key=lambda pair: -pair[1])[:MOST]
            found[one.slot.key, one.character] = ranked
    return found


def _like_sample(place: OpenLibrary, sample: Entry) -> list[tuple[Entry, float]]:
    """Cards like one that shows what is wanted."""
    if place.finder is None or place.reading is None:
        return []
    try:
        card = read_card(sample.path)[0]
        alike = place.finder.nearest(numbers_of(card.pose, card.clip), 24)
        near = {a.item: a.share for a in alike if a.share >= LEAST}
        entries = place.reading.index.entries(list(near))
    except (FoxHandError, IndexDamagedError):
        return []  # the card, or Care, says itself what is wrong
    return [(e, near[e.item]) for e in entries.values() if e.identity != sample.identity]


def _named(place: OpenLibrary, identity: str) -> Entry | None:
    if place.reading is None or not identity:
        return None
    item = place.item_of(identity)
    return place.reading.index.entries([item]).get(item) if item is not None else None


def _by_role(
    place: OpenLibrary,
    empty: tuple[Filling, ...],
    doing: Mapping[str, Mapping[str, float]],
) -> dict[Place, list[tuple[str, float]]]:
    """Cards of faces whose settings do what a slot asks for."""
    reading = place.reading
    if reading is None:
        return {}
    wanted_of = {one.character.casefold() for one in empty}
    vectors: list[tuple[Entry, dict[str, float]]] = []
    for number, shape in reading.shapes.items():
        roles = {n: f"{r.part} {r.action}" for n, r in face_roles(shape.settings).items()}
        if not roles:
            continue
        items, _, values = reading.index.poses(number, len(shape.turning), len(shape.settings))
        entries = reading.index.entries(items.tolist())
        for item, row in zip(items.tolist(), values.tolist(), strict=True):
            entry = entries.get(item)
            if entry is None or entry.character.casefold() not in wanted_of:
                continue
            done: dict[str, float] = {}
            for name, value in zip(shape.settings, row, strict=True):
                role = roles.get(name)
                if role is not None and value > 0.0:
                    done[role] = max(done.get(role, 0.0), value)
            vectors.append((entry, done))
    found: dict[Place, list[tuple[str, float]]] = {}
    for one in empty:
        asked = doing.get(one.slot.key)
        if asked:
            found[one.slot.key, one.character] = [
                (entry.identity, share)
                for entry, done in vectors
                if entry.character.casefold() == one.character.casefold()
                and (share := likeness(asked, done)) >= LEAST
            ]
    return found


def likeness(one: Mapping[str, float], other: Mapping[str, float]) -> float:
    """The cosine between what two faces do, 0...1: how alike in kind, whatever how much."""
    dot = sum(value * other.get(name, 0.0) for name, value in one.items())
    long = math.hypot(*one.values()) * math.hypot(*other.values())
    return max(dot / long, 0.0) if long > 0.0 else 0.0
