"""The drawing of a figure: outlines from its own rest geometry, face and hands enlarged."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainterPath, QPolygonF

from fox_hand.base.language import tr
from fox_hand.core.maths.rotations import Array, about_axis
from fox_hand.core.model.controls import FACE_REGIONS, ControlKind, Region, Side
from fox_hand.core.model.solvers import Aim
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.core.rig.views import COMMON
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Contour, Picture, Quality, Standing, View
from fox_hand.session.figures.channels import turned_in_world

WIDTH, HEIGHT = 208, 288
NAMES_BELOW = 22  # room for the names under the feet
HEAD_SCALE, HAND_SCALE = 1.6, 1.9
ARM_ANGLE = 66.0  # degrees below the horizontal at which arms are drawn
LONGER, TALL = 1.3, 0.7  # a long body is at least this many times as long as wide, as tall
KNOWN = 0.3  # of one: less sure than this is no knowledge of which way a figure looks
APART = 0.05  # of its height a puppet's parts are drawn away from what they hang on
TRACED = (720, 840)  # size of the masks that outlines are traced from


@dataclass(frozen=True)
class Zone:
    """A clickable part of the drawing.

    Args:
        key: unique name, such as ``hand_left``.
        label: as written beside it.
        regions: the regions it stands for.
        side: None for both sides and the middle.
        said: in a sentence: ``the left arm``.
    """

    key: str
    label: str
    regions: tuple[Region, ...]
    side: Side | None
    said: str


ZONES = (
    Zone("legs", tr("Legs"), (Region.LEGS,), None, tr("the legs")),
    Zone("torso", tr("Body"), (Region.TORSO,), None, tr("the body")),
    Zone("arm_left", tr("arm"), (Region.ARMS,), Side.LEFT, tr("the left arm")),
    Zone("arm_right", tr("arm"), (Region.ARMS,), Side.RIGHT, tr("the right arm")),
    Zone("tail", tr("Tail"), (Region.TAIL,), None, tr("the tail")),
    Zone("limbs", tr("Limbs"), (Region.LIMBS,), None, tr("the limbs")),
    Zone("wings", tr("Wings"), (Region.WINGS,), None, tr("the wings")),
    Zone("ears", tr("Ears"), (Region.EARS,), None, tr("the ears")),
    Zone("head", tr("Face"), tuple(FACE_REGIONS - {Region.EARS}), None, tr("the face")),
    Zone("hand_left", tr("L hand"), (Region.HANDS,), Side.LEFT, tr("the left hand")),
    Zone("hand_right", tr("R hand"), (Region.HANDS,), Side.RIGHT, tr("the right hand")),
)


@dataclass(frozen=True, eq=False)
class FigureDrawing:
    """Ready to paint: paths by zone, and a place for every control, on 208 x 288 px."""

    paths: Mapping[str, QPainterPath]
    dots: Array
    aside: bool = False  # seen from its own left

    def zone_at(self, at: QPointF) -> Zone | None:
        """The zone under a point; hands and face lie in front of arms and body."""
        for zone in reversed(ZONES):
            if zone.key in self.paths and self.paths[zone.key].contains(at):
                return zone
        return None


def zone_rows(rig: Rig, zone: Zone, state: State | None = None) -> list[int]:
    """Controls that belong to a zone and are listed in a state; at rest if None."""
    listed = rig.listed(rig.rest if state is None else state)
    return [
        row
        for row, c in enumerate(rig.controls)
        if c.region in zone.regions and row in listed and zone.side in (None, c.side)
    ]


def zone_word(zone: Zone) -> str:
    """A zone in a sentence: ``the left arm``."""
    return zone.said


def drawing_view(rig: Rig, view: int = 0) -> View:
    """The picture whose outlines make the drawing: from far in front, arms lowered; of a long body
    from its own left; of a puppet one of its views, its parts a little apart.

    Args:
        rig: the figure's.
        view: number of the view.
    """
    aside = is_long(rig)
    state = rig.rest if aside else lowered_arms(rig)
    if rig.flat:
        state = apart(rig, view)
    at = rig.evaluate(state)
    standing = Standing(rig, at)
    yaw = rig.body.heading + (np.pi / 2 if aside else 0.0)
    camera = Camera(yaw=yaw, pitch=0.0, fov=float(np.radians(4.0)))
    camera = camera.framing(rig.flesh(at), TRACED[0] / TRACED[1], 1.03)
    contours = []
    for zone in ZONES:
        rows = zone_rows(rig, zone, state)
        nodes = {rig.controls[r].node for r in rows if rig.controls[r].kind is ControlKind.JOINT}
        nodes |= _helpers(rig, zone, state)
        if nodes:
            contours.append(Contour(zone.key, standing, frozenset(nodes)))
    return View((standing,), camera, *TRACED, Quality.DRAFT, False, tuple(contours))


def is_long(rig: Rig) -> bool:
    """Whether a figure is an animal or the like: longer than wide, and about as long as tall, so
    that its side shows more of it than its front."""
    reach = np.ptp(rig.body.seen(rig.flesh(rig.evaluate(rig.rest))), axis=0)
    across, tall, long = (float(v) for v in reach)
    return rig.body.sure >= KNOWN and long > LONGER * across and long > TALL * tall


def _helpers(rig: Rig, zone: Zone, state: State) -> set[int]:
    return {
        c.node
        for row, c in enumerate(rig.controls)
        if c.helper and c.region in zone.regions and zone.side in (None, c.side)
        if rig.views.shown(state, row)
    }


def apart(rig: Rig, view: int) -> State:
    """A view of a puppet at rest with every part a little away from what it hangs on, towards
    where it is drawn, so that parts can be told from each other."""
    settings, move = rig.rest.settings.copy(), rig.rest.move.copy()
    if rig.views.view is not None:
        settings[rig.views.view] = view
    state = rig.rest.with_(settings=settings)
    at = rig.evaluate(state)
    drawings: dict[int, list[int]] = {}
    for control in rig.controls:
        if control.helper:
            drawings.setdefault(rig.skeleton.parents[control.node], []).append(control.node)
    for row in sorted(rig.listed(state)):
        node, above = rig.controls[row].node, rig.parents[row]
        if node not in drawings or above < 0 or rig.controls[above].node not in drawings:
            continue
        middles = [
            rig.flesh(at, drawings[n])[:, :2].mean(0) for n in (node, rig.controls[above].node)
        ]
        way = middles[0] - middles[1]
        far = float(np.hypot(*way))
        if far > 1e-9:
            move[row, :2] = way / far * (APART * rig.height)
    return state.with_(move=move)


def lowered_arms(rig: Rig) -> State:
    """Rest with the arms turned down towards the body, whatever stance the rig rests in."""
    state, axes = rig.rest, rig.body.axes
    for side, sign in ((Side.LEFT, 1.0), (Side.RIGHT, -1.0)):
        found = _shoulder_and_wrist(rig, side)
        if found is None:
            continue
        shoulder, wrist = found
        nodes = rig.evaluate(state).nodes
        d = nodes[rig.controls[wrist].node][:3, 3] - nodes[rig.controls[shoulder].node][:3, 3]
        left, up, _ahead = d @ axes
        now = np.degrees(np.arctan2(-up, left * sign))
        turn = about_axis(axes[:, 2], np.radians((now - ARM_ANGLE) * sign))
        state = turned_in_world(rig, state, [shoulder], nodes, turn)
        state = _open_palm(rig, state, wrist)
    return state


def _open_palm(rig: Rig, state: State, wrist: int) -> State:
    """Roll the hand about the forearm until its fingers spread widest in front view."""
    hand = rig.below(wrist)
    if len(hand) < 6:
        return state
    nodes = rig.evaluate(state).nodes
    above = rig.parents[wrist]
    places = rig.handle_places(nodes)
    along = places[wrist] - places[above] if above >= 0 else -rig.body.axes[:, 1]
    length = float(np.linalg.norm(along))
    if length < 1e-9:
        return state
    best, widest = state, 0.0
    for degrees in range(-90, 91, 15):
        turn = about_axis(along / length, np.radians(degrees))
        tried = turned_in_world(rig, state, [wrist], nodes, turn)
        flat = rig.body.seen(rig.handle_places(rig.evaluate(tried).nodes))[hand, :2]
        area = float(np.linalg.det(np.cov(flat.T)))
        if area > widest * 1.02:
            best, widest = tried, area
    return best


def _shoulder_and_wrist(rig: Rig, side: Side) -> tuple[int, int] | None:
    hands = [
        r
        for r, c in enumerate(rig.controls)
        if c.region is Region.HANDS and c.side is side and c.kind is ControlKind.JOINT
    ]
    if not hands:
        return None
    wrist = min(hands, key=lambda r: len(_chain(rig, r)))
    chain = [
        r for r in _chain(rig, wrist) if rig.controls[r].region is Region.ARMS
    ]  # from the wrist up
    if not chain:
        return None
    places = rig.handle_places(rig.skeleton.rest_world)
    top = chain[-1]
    if len(chain) > 2:  # a collar bone is short; the arm begins below it
        whole = float(np.linalg.norm(places[wrist] - places[top]))
        if float(np.linalg.norm(places[chain[-2]] - places[top])) < 0.35 * whole:
            top = chain[-2]
    return top, wrist


def _chain(rig: Rig, row: int) -> list[int]:
    found = []
    row = rig.parents[row]
    while row >= 0:
        found.append(row)
        row = rig.parents[row]
    return found


def drawing_from(rig: Rig, picture: Picture, view_number: int = 0) -> FigureDrawing:
    """The drawing, from the traced outlines."""
    view = picture.view
    places = rig.handle_places(view.figures[0].at.nodes)
    dots = view.camera.project(places, view.width, view.height)[:, :2]
    lines = {k: [np.asarray(x) for x in v] for k, v in picture.contours.items()}
    if not is_long(rig) and not rig.flat:
        _enlarge(rig, lines, dots, "head", HEAD_SCALE)
        for key in ("hand_left", "hand_right"):
            _enlarge(rig, lines, dots, key, HAND_SCALE)
    _hang_free_controls(rig, dots)
    everything = [x for v in lines.values() for x in v] or [dots]
    shown = rig.views.of_control
    bones = [
        r
        for r, c in enumerate(rig.controls)
        if c.kind is ControlKind.JOINT and shown[r] in (COMMON, view_number)
    ]
    points = np.concatenate([*everything, dots[bones]])
    low, high = points.min(0), points.max(0)
    room = np.array([WIDTH, HEIGHT - NAMES_BELOW])
    scale = float(((room - 8) / np.maximum(high - low, 1e-9)).min())
    offset = room / 2 - (low + high) / 2 * scale
    paths = {}
    for key, group in lines.items():
        path = QPainterPath()
        for line in group:
            thinned = _thinned(line * scale + offset)
            path.addPolygon(QPolygonF([QPointF(x, y) for x, y in thinned.tolist()]))
            path.closeSubpath()
        paths[key] = path
    dots = dots * scale + offset
    _beside_limbs(rig, dots)
    for name, spot in rig.picker.items():
        dots[rig.control_row[name]] = (spot.x * WIDTH, spot.y * HEIGHT)
    dots = np.clip(dots, 3, (WIDTH - 3, HEIGHT - 3))
    return FigureDrawing(paths, dots, is_long(rig))


def _hang_free_controls(rig: Rig, dots: Array) -> None:
    """Controls that stand free of the body must not stretch the drawing: they come to its
    nearest bone."""
    bones = [r for r, c in enumerate(rig.controls) if c.kind is ControlKind.JOINT]
    if not bones:
        return
    places = rig.body.seen(rig.handle_places(rig.skeleton.rest_world))
    seen = [2, 1] if is_long(rig) else [0, 1]
    for row, control in enumerate(rig.controls):
        if control.moves_node and control.kind is not ControlKind.JOINT:
            far = np.linalg.norm((places[bones] - places[row])[:, seen], axis=-1)
            dots[row] = dots[bones[int(np.argmin(far))]]


def _beside_limbs(rig: Rig, dots: Array) -> None:
    """Goals hang outside their hand or foot, poles outside their elbow or knee; what the eyes
    look at stands between and above them."""
    middle = float(dots[:, 0].mean())
    for limb in rig.limbs:
        rows = [rig.row_of_node.get(n) for n in (limb.goal, limb.end, limb.pole, limb.lower)]
        for mine, bone, far in ((rows[0], rows[1], 15.0), (rows[2], rows[3], 13.0)):
            if mine is not None and bone is not None:
                sign = 1.0 if dots[bone, 0] > middle else -1.0
                dots[mine] = dots[bone] + (sign * far, 0.0)
    for solver in rig.solvers:
        if isinstance(solver, Aim) and solver.target in rig.row_of_node:
            eyes = [
                dots[rig.row_of_node[s.node]]
                for s in rig.solvers
                if isinstance(s, Aim) and s.target == solver.target and s.node in rig.row_of_node
            ]
            if eyes:
                dots[rig.row_of_node[solver.target]] = np.mean(eyes, 0) + (0.0, -22.0)


def _enlarge(rig: Rig, lines: dict[str, list[Array]], dots: Array, key: str, factor: float) -> None:
    """Scale a zone about where it is joined to the body."""
    zone = next(z for z in ZONES if z.key == key)
    rows = zone_rows(rig, zone)
    if key not in lines or not lines[key] or not rows:
        return
    points = np.concatenate(lines[key])
    if key == "head":
        pivot = np.array([points[:, 0].mean(), points[:, 1].max()])
    else:
        pivot = dots[min(rows, key=lambda r: len(_chain(rig, r)))].copy()
    lines[key] = [(x - pivot) * factor + pivot for x in lines[key]]
    dots[rows] = (dots[rows] - pivot) * factor + pivot


def _thinned(line: Array, tolerance: float = 0.5) -> Array:
    """Leave out points that lie on the line to within half a pixel (Douglas-Peucker)."""
    keep = np.zeros(len(line), dtype=bool)
    keep[[0, len(line) - 1]] = True
    stack = [(0, len(line) - 1)]
    while stack:
        a, b = stack.pop()
        if b - a < 2:
            continue
        chord = line[b] - line[a]
        length = max(float(np.hypot(*chord)), 1e-9)
        rel = line[a + 1 : b] - line[a]
        off = np.abs(chord[0] * rel[:, 1] - chord[1] * rel[:, 0]) / length
        if length < 1e-6:
            off = np.hypot(rel[:, 0], rel[:, 1])
        worst = int(np.argmax(off))
        if off[worst] > tolerance:
            middle = a + 1 + worst
            keep[middle] = True
            stack += [(a, middle), (middle, b)]
    return line[keep]
