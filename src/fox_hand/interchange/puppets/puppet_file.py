"""A flat puppet as a rig: a GLB of textured quads that any viewer shows, and its sidecar.

Every part is a node at its pivot, every drawing a quad on a node of its own below it. Drawings
that are not seen are there, next to nothing in size, and a choice in the sidecar brings them out.
What is in front lies a little nearer.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np

from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.model.controls import Channel, MirrorRule, Region, SettingKind
from fox_hand.core.model.solvers import DrivenKind
from fox_hand.core.puppet.drawn import PartDrawing, Pixels, png
from fox_hand.core.puppet.facing import looks_aside
from fox_hand.core.puppet.puppet import Puppet, PuppetPart
from fox_hand.core.rig.swaps import OPACITY
from fox_hand.core.rig.views import AS_DRAWN, FACING, TURNED, VIEW
from fox_hand.interchange.gltf.writing import GltfFile
from fox_hand.interchange.puppets.puppet_limbs import PuppetLimb, limbs_of, tip_of
from fox_hand.interchange.puppets.puppet_quads import LARGE, drawing_mesh, preview_of
from fox_hand.interchange.sidecar import (
    FORMAT,
    VERSION,
    BodyNotes,
    ControlNotes,
    DriveNotes,
    SettingNotes,
    Sidecar,
    TargetNotes,
    write_sidecar,
)

HEIGHT = 1.0  # metres that the canvas is high, unless it is said
NEARER = 0.001  # metres that a part lies before the next one
MAIN = ("", "Side")  # what is in no view belongs to the side's as soon as there are some
HIDDEN = 0.001  # how large a drawing is that is not seen
IN_FRONT = 10  # places that a part can be brought forwards or back
PAD = 2  # transparent pixels around a drawing, so that its edge is as smooth as inside
NO_WORD = re.compile(r"\W+")
LARGEST = 2048  # pixels of a drawing's longer side


@dataclass(frozen=True)
class PuppetNames:
    """What parts, drawings and settings are called in the file.

    Args:
        node: of a part, by view and name.
    """

    node: dict[tuple[str, str], str] = field(default_factory=dict)

    @staticmethod
    def of(puppet: Puppet) -> PuppetNames:
        """Short names without spaces, unique. Those of other views than the side's have the view
        in front, also where there is no other: a view that is drawn later renames nothing, or
        cards would lose their controls."""
        found: dict[tuple[str, str], str] = {}
        used = {"root", VIEW, FACING}
        for part in puppet.parts:
            words = part.name if part.view in MAIN else f"{part.view} {part.name}"
            base = NO_WORD.sub("_", words.lower()).strip("_") or "part"
            name, number = base, 2
            while name in used:
                name, number = f"{base}_{number}", number + 1
            used.add(name)
            found[part.view, part.name] = name
        return PuppetNames(found)

    def of_part(self, part: PuppetPart) -> str:
        """The node and control of a part."""
        return self.node[part.view, part.name]

    def drawings(self, part: PuppetPart) -> list[str]:
        """The nodes of a part's drawings."""
        return [f"{self.of_part(part)}__{number}" for number in range(len(part.drawings))]


def puppet_files(
    puppet: Puppet, height: float = HEIGHT, progress: Progress | None = None
) -> tuple[bytes, bytes]:
    """The GLB and the sidecar.

    Args:
        puppet: what is written.
        height: of the canvas, metres.
        progress: of long work.

    Raises:
        OSError, SyntaxError, ValueError: if a drawing cannot be decoded.
        Cancelled: by the progress.
    """
    names = PuppetNames.of(puppet)
    limbs = limbs_of(puppet, names.node, HIDDEN)
    glb = _Scene(puppet, names, limbs, height, progress or Progress()).glb()
    return glb, write_sidecar(_sidecar(puppet, names, limbs, height))


class _Scene:
    """The GLB."""

    def __init__(
        self,
        puppet: Puppet,
        names: PuppetNames,
        limbs: tuple[PuppetLimb, ...],
        height: float,
        progress: Progress,
    ) -> None:
        self._puppet, self._names, self._progress = puppet, names, progress
        self._limbs = limbs
        self._scale = height / puppet.height
        self._file = GltfFile.new()
        self._drawn = 0

    def glb(self) -> bytes:
        document = self._file.document
        document["nodes"] = []
        root = {"name": "root", "children": list[int]()}
        document["nodes"].append(root)
        for number, view in enumerate(self._puppet.views):
            body = self._puppet.root(view)
            node = self._part(body, self._ground(view), 0.0)
            if number:
                document["nodes"][node]["scale"] = [HIDDEN] * 3
            root["children"].append(node)  # type: ignore[attr-defined]  # of one kind
        document["scenes"] = [{"name": self._puppet.name, "nodes": [0]}]
        document["scene"] = 0
        return self._file.glb()

    def _ground(self, view: str) -> tuple[float, float]:
        """Where the figure stands: under the middle of its body, canvas pixels."""
        parts = self._puppet.of_view(view)
        lowest = max(part.seen.top + _bottom(part.seen) for part in parts)
        return self._puppet.root(view).pivot[0], lowest

    def _part(self, part: PuppetPart, above: tuple[float, float], depth: float) -> int:
        """The node of a part and all that hangs on it.

        Args:
            part: the part.
            above: where the node it hangs on is, canvas pixels.
            depth: how near that lies, metres.
        """
        nodes = self._file.document["nodes"]
        order = self._puppet.of_view(part.view)
        near = (len(order) - order.index(part)) * NEARER
        node = {
            "name": self._names.of_part(part),
            "translation": [
                (part.pivot[0] - above[0]) * self._scale,
                (above[1] - part.pivot[1]) * self._scale,
                near - depth,
            ],
        }
        at = len(nodes)
        nodes.append(node)
        children = list(self._drawings(part))
        children += self._tip(part)
        hanging = [p for p in order if p.above == part.name]
        children += [self._part(other, part.pivot, near) for other in hanging]
        node["children"] = children
        return at

    def _tip(self, part: PuppetPart) -> Iterator[int]:
        """The end of a limb, on its lower part."""
        for limb in self._limbs:
            if limb.lower is part:
                x, y = tip_of(part)
                away = [(x - part.pivot[0]) * self._scale, (part.pivot[1] - y) * self._scale, 0.0]
                self._file.document["nodes"].append({"name": limb.tip, "translation": away})
                yield len(self._file.document["nodes"]) - 1

    def _drawings(self, part: PuppetPart) -> Iterator[int]:
        nodes, total = (
            self._file.document["nodes"],
            sum(len(p.drawings) for p in self._puppet.parts),
        )
        for number, name in enumerate(self._names.drawings(part)):
            self._progress.step(self._drawn / max(total, 1), tr("Writing drawings"))
            self._drawn += 1
            node = {"name": name, "mesh": self._mesh(part, part.drawings[number], name)}
            if number != part.shown:
                node["scale"] = [HIDDEN] * 3
            nodes.append(node)
            yield len(nodes) - 1

    def _mesh(self, part: PuppetPart, drawing: PartDrawing, name: str) -> int:
        pixels, left, top = cut(drawing)
        high, wide = pixels.shape[:2]
        x = (np.array([0, wide, wide, 0]) + left - part.pivot[0]) * self._scale
        y = (part.pivot[1] - top - np.array([high, high, 0, 0])) * self._scale
        corners = np.stack([x, y, np.zeros(4)], axis=1)
        picture, preview = png(_fitting(pixels)), preview_of(pixels)
        return drawing_mesh(self._file, picture, corners, name, preview, drawing.opacity)


def cut(drawing: PartDrawing) -> tuple[Pixels, float, float]:
    """What is drawn, with a little room around it, and where its corner lies on the canvas.
    Transparent pixels have the colours of those beside them, so that no other colour shines
    through at the edge when it is drawn larger or smaller."""
    pixels = drawing.pixels()
    rows, columns = np.nonzero(pixels[..., 3])
    if not len(rows):
        return np.zeros((1, 1, 4), np.uint8), drawing.left, drawing.top
    top, left = int(rows.min()), int(columns.min())
    inner = pixels[top : rows.max() + 1, left : columns.max() + 1]
    padded = np.pad(inner, ((PAD, PAD), (PAD, PAD), (0, 0)))
    return _spread(padded), drawing.left + left - PAD, drawing.top + top - PAD


def _spread(pixels: Pixels) -> Pixels:
    """Colours of what is drawn carried out into what is transparent."""
    from scipy.ndimage import distance_transform_edt  # noqa: PLC0415 - slow to load

    empty = pixels[..., 3] == 0
    if not empty.any() or empty.all():
        return pixels
    # the nearest of every other pixel is near enough, and a quarter of the work where it is much
    step = 2 if empty.size >= LARGE and not empty[::2, ::2].all() else 1
    rows, columns = distance_transform_edt(
        empty[::step, ::step], return_distances=False, return_indices=True
    )
    found = pixels.copy()
    across, down = np.nonzero(empty)
    at = across // step, down // step
    found[across, down, :3] = pixels[rows[at] * step, columns[at] * step, :3]
    return found


def _fitting(pixels: Pixels) -> Pixels:
    from PIL import Image  # noqa: PLC0415 - loading it takes longer than many commands

    if max(pixels.shape[:2]) <= LARGEST:
        return pixels
    picture = Image.fromarray(pixels, "RGBA")
    picture.thumbnail((LARGEST, LARGEST))
    return np.asarray(picture)


def _bottom(drawing: PartDrawing) -> int:
    rows = np.nonzero(drawing.pixels()[..., 3].any(axis=1))[0]
    return int(rows.max()) + 1 if len(rows) else drawing.height


# -- what the model file cannot say -----------------------------------------------------------


def _sidecar(
    puppet: Puppet, names: PuppetNames, limbs: tuple[PuppetLimb, ...], height: float
) -> Sidecar:
    controls = {
        "root": ControlNotes(
            label="All of it",
            region=Region.TORSO,
            order="XYZ",
            channels=[Channel.TURN, Channel.MOVE, Channel.SCALE],
            locked=["turn.x", "turn.y", "move.z", "scale.z"],
            axis_labels=("tip", "spin", "turn"),
            settings=[VIEW] if len(puppet.views) > 1 else [],
        )
    }
    settings, drives = dict[str, SettingNotes](), list[DriveNotes]()
    aside = [view for view in puppet.views if looks_aside(puppet, view)]
    if aside:
        controls["root"].settings.append(FACING)
        settings[FACING] = _choice("Facing", ("as drawn", "turned"), 0)
        drives += [_turned(names.of_part(puppet.root(view))) for view in aside]
    for part in puppet.parts:
        controls[names.of_part(part)] = _control(part, names)
        for name in names.drawings(part):
            controls[name] = ControlNotes(
                label=part.called, region=part.region, channels=[Channel.SCALE], helper=True
            )
        settings |= _settings(part, puppet, names)
        drives += _drives(part, names)
    if len(puppet.views) > 1:
        settings[VIEW] = _choice("View", puppet.views, 0)
        for number, view in enumerate(puppet.views):
            node = names.of_part(puppet.root(view))
            drives += _swap(VIEW, node, number, 0, len(puppet.views))
    targets = dict[str, TargetNotes]()
    for limb in limbs:
        settings[limb.follow] = limb.setting()
        targets |= dict(limb.targets(height / puppet.height))
    return Sidecar(
        FORMAT,
        VERSION,
        puppet.name,
        body=BodyNotes(),
        controls=controls,
        settings=settings,
        targets=targets,
        solvers=[limb.solver() for limb in limbs],
        drives=drives,
    )


def _control(part: PuppetPart, names: PuppetNames) -> ControlNotes:
    held = [f"{names.of_part(part)}{word}" for word in ("_in_front", OPACITY)]
    if len(part.drawings) > 1:
        held.insert(0, f"{names.of_part(part)}_drawing")
    channels = [Channel.TURN, *([Channel.MOVE] if part.free else []), Channel.SCALE]
    limits = None
    if part.limits is not None:
        low, high = (float(np.degrees(angle)) for angle in part.limits)
        limits = [None, None, (low, high)]
    partner = names.node.get((part.view, part.partner)) if part.partner else None
    return ControlNotes(
        label=part.called,
        side=part.side,
        region=part.region,
        role=part.role,
        order="XYZ",
        channels=channels,
        limits=limits,
        locked=["turn.x", "turn.y", "scale.z", *(["move.z"] if part.free else [])],
        axis_labels=("tip", "spin", "turn"),
        partner=partner,
        settings=held,
    )


def _settings(part: PuppetPart, puppet: Puppet, names: PuppetNames) -> dict[str, SettingNotes]:
    name = names.of_part(part)
    partner = names.node.get((part.view, part.partner)) if part.partner else None
    found = {
        f"{name}_in_front": SettingNotes(
            label=f"{part.called} in front",
            minimum=-float(IN_FRONT),
            maximum=float(IN_FRONT),
            mirror=MirrorRule.SWAP if partner else MirrorRule.KEEP,
            partner=f"{partner}_in_front" if partner else None,
        )
    }
    found[f"{name}{OPACITY}"] = SettingNotes(
        label=f"{part.called} opacity",
        default=1.0,
        mirror=MirrorRule.SWAP if partner else MirrorRule.KEEP,
        partner=f"{partner}{OPACITY}" if partner else None,
    )
    if len(part.drawings) > 1:
        words = [drawing.name for drawing in part.drawings]
        choice = _choice(f"{part.called} drawing", words, part.shown)
        if partner and part.partner:
            other = puppet.part(part.partner, part.view)
            if [drawing.name for drawing in other.drawings] == words:  # or numbers mean others
                choice.mirror, choice.partner = MirrorRule.SWAP, f"{partner}_drawing"
        found[f"{name}_drawing"] = choice
    return found


def _choice(label: str, options: Sequence[str], shown: int) -> SettingNotes:
    return SettingNotes(
        label=label,
        maximum=float(len(options) - 1),
        default=float(shown),
        mirror=MirrorRule.KEEP,
        kind=SettingKind.CHOICE,
        options=list(options),
    )


def _drives(part: PuppetPart, names: PuppetNames) -> Iterator[DriveNotes]:
    name = names.of_part(part)
    ends = [(-float(IN_FRONT), -IN_FRONT * NEARER), (float(IN_FRONT), IN_FRONT * NEARER)]
    yield DriveNotes(f"{name}_in_front", DrivenKind.MOVE, name, ends, "z")
    if len(part.drawings) > 1:
        for number, drawing in enumerate(names.drawings(part)):
            yield from _swap(f"{name}_drawing", drawing, number, part.shown, len(part.drawings))


def _turned(node: str) -> DriveNotes:
    """What looks aside looks the other way."""
    return DriveNotes(FACING, DrivenKind.SCALE, node, [(AS_DRAWN, 1.0), (TURNED, -1.0)], "x")


def _swap(source: str, node: str, number: int, shown: int, count: int) -> Iterator[DriveNotes]:
    """A node that is seen where a choice has one value; scale is multiplied onto what the file
    has, which is next to nothing for what is not seen at rest."""
    seen, unseen = (1.0, HIDDEN) if number == shown else (1.0 / HIDDEN, 1.0)
    points = [(float(i), seen if i == number else unseen) for i in range(count)]
    for axis in ("x", "y", "z"):
        yield DriveNotes(source, DrivenKind.SCALE, node, points, axis)
