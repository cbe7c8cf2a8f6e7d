"""What the stage asks to be drawn: who stands there, and which outlines lie over them."""

from __future__ import annotations

from collections.abc import Iterable

from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Contour, Quality, View
from fox_hand.session.app.needs import PosingInTime
from fox_hand.session.figures.figure import Figure

SELECTED, GHOST, PEEK = "selected", "ghost", "peek"
KEYED = "key "  # followed by the frame
EACH = 2  # keys before, and after


def compose_view(
    work: PosingInTime,
    camera: Camera,
    size: tuple[int, int],
    quality: Quality,
    *,
    ghost: bool,
    plain: bool,
) -> View:
    """A picture of everybody.

    Args:
        work: who stands there, what is selected, put on and looked at.
        camera: from where.
        size: width and height, pixels.
        quality: a quick picture has no outlines that take their time.
        ghost: with the outline of how the figure stood before a card.
        plain: without what is selected and the neighbouring keys, as while a card is captured.
    """
    actor, fine = work.actor, quality is Quality.FULL and not plain
    contours: list[Contour] = []
    if actor is not None:
        if fine and len(work.selection):
            nodes = actor.flesh_nodes(list(work.selection.rows))
            contours.append(Contour(SELECTED, actor.standing, nodes))
        mix, peek = work.mix, work.mix_commands.peek
        if mix is not None and ghost:
            nodes = _moved_nodes(actor, mix.rows)
            contours.append(Contour(GHOST, actor.standing_in(mix.base), nodes))
        if peek is not None and peek.actor is actor:
            nodes = _moved_nodes(actor, peek.rows)
            contours.append(Contour(PEEK, actor.standing_in(peek.state), nodes))
        if fine:
            contours += neighbours(work)
    figures = tuple(member.standing for member in work.cast.actors)
    settings = work.settings
    drawn = bool(figures) and all(one.rig.flat for one in figures)
    return View(
        figures,
        camera,
        *size,
        quality,
        not settings.clear_ground,
        tuple(contours),
        backdrops=work.backdrops.standing,
        floor=settings.flat_shadow or not drawn,
        rough=settings.drawing == "plain",
    )


def neighbours(work: PosingInTime) -> list[Contour]:
    """The figure at the keys before and after, where they are to be seen: the selected parts with
    all below them, else all of it."""
    actor = work.actor
    if actor is None or not work.settings.onion or not actor.keys:
        return []
    rows = {r for row in work.selection.rows for r in actor.rig.below(row)}
    nodes = actor.flesh_nodes(sorted(rows or range(len(actor.rig.controls))))
    return [
        Contour(f"{KEYED}{frame}", actor.standing_in(actor.take.at(frame)), nodes)
        for frame in neighbouring_frames(work)
    ]


def neighbouring_frames(work: PosingInTime) -> list[float]:
    """The nearest keyed frames on both sides."""
    here, keyed = work.timing.frame, work.keying.key_frames().tolist()
    before = [f for f in keyed if f < here - 1e-6][-EACH:]
    return before + [f for f in keyed if f > here + 1e-6][:EACH]


def _moved_nodes(actor: Figure, rows: Iterable[int]) -> frozenset[int]:
    """Nodes with flesh of some controls and all below them."""
    moved = {r for row in rows for r in actor.rig.below(row)}
    return actor.flesh_nodes(sorted(moved))
