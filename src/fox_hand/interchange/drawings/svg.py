"""SVG drawings as pictures, drawn by resvg. Nothing outside the file is ever looked at."""

from __future__ import annotations

import math
import re
import xml.etree.ElementTree as ET

from fox_hand.base.language import tr

MOST_SIDE = 4096  # pixels of the longer side that are drawn
USUAL_SIDE = 1024  # where the drawing says no size
MOST_ELEMENTS = 200_000
DEEPEST = 200
XLINK = "{http://www.w3.org/1999/xlink}href"
LENGTH = re.compile(r"\s*([0-9.eE+-]+)\s*(px|pt|pc|mm|cm|in|)\s*$")
# pixels of a CSS unit (CSS Values and Units Level 3, 6.2)
UNITS = {"": 1.0, "px": 1.0, "pt": 96 / 72, "pc": 16.0, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96}
OUTSIDE = re.compile(r"url\(\s*['\"]?\s*(?!#|data:)", re.IGNORECASE)
ACTING = {"script", "foreignObject", "iframe", "animate", "animateTransform", "set", "handler"}


class SvgRefusedError(ValueError):
    """A drawing that is not drawn: its words say why, as half a sentence."""


def svg_picture(data: bytes) -> bytes:
    """A drawing as a PNG picture.

    Args:
        data: the SVG file.

    Raises:
        SvgRefusedError: for what is no SVG, has scripts, or refers to something outside.
    """
    root = _checked(data)
    side = _largest_side(root)
    zoom = min(1.0, MOST_SIDE / side) if side else 1.0
    import resvg_py  # noqa: PLC0415 - few people have such drawings

    sizes = {"zoom": zoom} if side else {"width": USUAL_SIDE}
    texts = any(_plain(one.tag) in ("text", "tspan") for one in root.iter())
    try:
        found = resvg_py.svg_to_bytes(
            svg_string=data.decode("utf-8-sig"),
            skip_system_fonts=not texts,  # to look through them takes longer than to draw
            resources_dir="/dev/null",
            **sizes,
        )
    except (ValueError, UnicodeDecodeError) as error:
        raise SvgRefusedError(tr("it cannot be drawn")) from error
    return bytes(found)


def _checked(data: bytes) -> ET.Element:
    if b"<!ENTITY" in data:
        raise SvgRefusedError(tr("it declares entities, which no drawing needs"))
    try:
        root = ET.fromstring(data)
    except (ET.ParseError, ValueError, LookupError) as error:
        raise SvgRefusedError(tr("it is no SVG drawing")) from error
    if _plain(root.tag) != "svg":
        raise SvgRefusedError(tr("it is no SVG drawing"))
    for one in root.iter():
        _check_element(one)
    named = {one.get("id", ""): one for one in root.iter() if one.get("id")}
    _Pieces(named).of(root, 0)
    return root


class _Pieces:
    """How many pieces are drawn in the end: copies of copies grow without end.

    Args:
        named: elements by their id.
    """

    def __init__(self, named: dict[str, ET.Element]) -> None:
        self._named = named
        self._known: dict[ET.Element, int] = {}
        self._under_way: set[ET.Element] = set()

    def of(self, one: ET.Element, deep: int) -> int:
        """Of one element, all that is in it and that it copies.

        Raises:
            SvgRefusedError: if they are far too many, or copy themselves.
        """
        if one in self._known:
            return self._known[one]
        if deep > DEEPEST or one in self._under_way:
            raise SvgRefusedError(tr("its pieces lie in each other without end"))
        self._under_way.add(one)
        count = 1 + sum(self.of(inner, deep + 1) for inner in one)
        copied = self._named.get((one.get("href") or one.get(XLINK) or "").strip().lstrip("#"))
        if _plain(one.tag) == "use" and copied is not None:
            count += self.of(copied, deep + 1)
        self._under_way.discard(one)
        if count > MOST_ELEMENTS:
            raise SvgRefusedError(tr("it is made of far too many pieces"))
        self._known[one] = count
        return count


def _check_element(one: ET.Element) -> None:
    if _plain(one.tag) in ACTING:
        raise SvgRefusedError(
            tr("it holds {plain}, and drawings only are read", plain=_plain(one.tag))
        )
    for key, value in one.attrib.items():
        name = _plain(key)
        if name.lower().startswith("on"):
            raise SvgRefusedError(tr("it holds a script, and drawings only are read"))
        if key in ("href", XLINK) and not value.strip().startswith(("#", "data:")):
            # links of text lead somewhere only when they are pressed
            if _plain(one.tag) != "a":
                raise SvgRefusedError(tr("it refers to something outside of itself"))
        elif OUTSIDE.search(value):
            raise SvgRefusedError(tr("it refers to something outside of itself"))
    text = one.text or ""
    if _plain(one.tag) == "style" and (OUTSIDE.search(text) or "@import" in text.lower()):
        raise SvgRefusedError(tr("it refers to something outside of itself"))


def _plain(tag: object) -> str:
    return str(tag).rpartition("}")[2]


def _largest_side(root: ET.Element) -> float:
    """Pixels of the longer side as the drawing says it; 0 where it says nothing."""
    sides = [_length(root.get(key, "")) for key in ("width", "height")]
    if not all(sides):
        box = root.get("viewBox", "").replace(",", " ").split()
        sides = [_length(side) for side in box[2:4]]
    found = max(sides, default=0.0)
    if found > MOST_SIDE * 64:
        raise SvgRefusedError(tr("it is {found:,.0f} pixels large", found=found))
    return found


def _length(text: str) -> float:
    match = LENGTH.match(text)
    try:
        found = float(match[1]) * UNITS[match[2]] if match is not None else 0.0
    except ValueError:
        return 0.0
    return found if math.isfinite(found) and found > 0 else 0.0
