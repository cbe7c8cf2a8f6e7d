"""From layers in groups, however they were stored, to parts with drawings and views.

A group of layers is a part whose layers take turns; a layer alone is a part with one drawing.
Groups that hold groups only hold parts together. Groups named as a view at the top are views.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.pictures import TooManyPixelsError, opened_picture
from fox_hand.base.language import tr
from fox_hand.base.words import plain_name
from fox_hand.core.naming.side_region import tokens
from fox_hand.core.puppet.drawn import DrawnFigure, DrawnPart, PartDrawing

KEPT = tr("Nothing that was open has changed.")
MOST_LAYERS = 5000
# common practice, no source: what turns of a character are called
VIEWS = {
    "front": "Front",
    "half": "Half",
    "threequarter": "Half",
    "side": "Side",
    "profile": "Side",
    "back": "Back",
    "rear": "Back",
}
ORDER = ("", "Side", "Half", "Front", "Back")  # the first that is drawn is seen at first
BESIDE = {"view", "three", "quarter", "3", "4", "left", "right"}


@dataclass
class Layer:
    """A picture in a stack."""

    name: str
    drawing: PartDrawing
    visible: bool = True


@dataclass
class Group:
    """Layers and groups, what is in front first."""

    name: str
    members: list[Layer | Group] = field(default_factory=list)
    visible: bool = True


def view_named(name: str) -> str | None:
    """The view a group's name says, None for none: ``side``, ``01_Front view``."""
    words = [w for w in tokens(name) if not w.isdigit() or w in BESIDE]
    joined = "".join(words).removesuffix("view")
    if joined in ("threequarter", "34", "threequarters"):
        return "Half"
    found = [VIEWS[w] for w in words if w in VIEWS]
    others = [w for w in words if w not in VIEWS and w not in BESIDE]
    return found[0] if len(found) == 1 and not others else None


def figure_of(
    name: str, size: tuple[int, int], top: Sequence[Layer | Group], notes: Sequence[str]
) -> DrawnFigure:
    """Parts and views out of a stack.

    Args:
        name: of the folder or file.
        size: of the canvas, pixels.
        top: what lies in the stack, in front first.
        notes: what was noticed while reading.

    Raises:
        FoxHandError: ``drawings.none`` if nothing is drawn.
    """
    parts: list[DrawnPart] = []
    views = {id(g): view_named(g.name) for g in top if isinstance(g, Group)}
    split = any(views.values())
    for member in top:
        view = views.get(id(member))
        if isinstance(member, Group) and view is not None:
            parts += _parts(member.members, view, "")
        else:
            parts += _parts([member], "Side" if split else "", "")
    if not parts:
        raise FoxHandError(
            "drawings.none",
            tr("{name} holds no drawings.", name=name),
            KEPT,
            tr("Look whether its layers or files are empty, or another folder was meant."),
        )
    parts.sort(key=lambda part: ORDER.index(part.view))
    return DrawnFigure(name, *size, tuple(_unique(parts)), tuple(notes))


def _parts(members: Sequence[Layer | Group], view: str, within: str) -> Iterator[DrawnPart]:
    for member in members:
        if isinstance(member, Layer):
            yield DrawnPart(member.name, (member.drawing,), view, within=within)
            continue
        layers = [m for m in member.members if isinstance(m, Layer)]
        if len(layers) == len(member.members):
            if layers:
                yield _part(member.name, layers, view, within)
        else:
            yield from _parts(member.members, view, member.name)


def _part(name: str, layers: Sequence[Layer], view: str, within: str) -> DrawnPart:
    shown = next((i for i, layer in enumerate(layers) if layer.visible), 0)
    drawings, used = list[PartDrawing](), set[str]()
    for layer in layers:
        drawings.append(replace(layer.drawing, name=_free(layer.name, used)))
    return DrawnPart(name, tuple(drawings), view, shown, within)


def _unique(parts: Sequence[DrawnPart]) -> Iterator[DrawnPart]:
    used: dict[str, set[str]] = {}
    for part in parts:
        yield replace(part, name=_free(part.name, used.setdefault(part.view, set())))


def _free(name: str, used: set[str]) -> str:
    name = plain_name(name).strip() or "part"
    found, number = name, 2
    while found.lower() in used:
        found, number = f"{name} {number}", number + 1
    used.add(found.lower())
    return found


def drawing_of(name: str, data: bytes, notes: list[str], source: str) -> PartDrawing | None:
    """A picture that can be drawn; None, with a note, for one that cannot.

    Args:
        name: of the layer or file.
        data: the picture's file.
        notes: what was noticed so far; a sentence is added.
        source: see :class:`~fox_hand.core.puppet.drawn.PartDrawing`.
    """
    try:
        with opened_picture(data) as picture:
            width, height = picture.size
            box = picture.convert("RGBA").getchannel("A").getbbox()
    except TooManyPixelsError as error:
        notes.append(tr("{name} is left out: {strerror}.", name=name, strerror=error.strerror))
        return None
    except (OSError, SyntaxError, ValueError):
        notes.append(tr("{name} is left out: it cannot be decoded.", name=name))
        return None
    if box is None:
        notes.append(tr("{name} is left out: nothing is drawn in it.", name=name))
        return None
    return PartDrawing(name, data, width, height, source=source)
