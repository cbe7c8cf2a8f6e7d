"""The BVH text format: a hierarchy of joints, then frames of numbers.

There is no standard; this follows the description by Biovision as published by J. Thingvold
(University of Wisconsin, 1999), and takes what files in the wild do: tabs, CRLF, names with
colons and blanks, joints with 0, 1, 2, 3 or 6 channels in any order, several roots, a missing
or cut MOTION part, one frame more or less than the header says.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.inputs import read_file
from fox_hand.base.language import tr
from fox_hand.core.maths.measurable import measurable
from fox_hand.core.maths.rotations import Array

KEPT = tr("Nothing that was open has changed.")
CHANNELS = {
    f"{axis}{kind}".lower(): (kind, index)
    for index, axis in enumerate("XYZ")
    for kind in ("position", "rotation")
}
LARGEST = 64 * 1024 * 1024  # bytes; longer texts are not motion of one figure
MOST_JOINTS = 4096


@dataclass
class Joint:
    """One joint.

    Args:
        name: as in the file; end sites get the parent's with `` end`` behind it.
        parent: row of the joint above, -1 for a root.
        offset: rest place from the parent, in the file's unit.
        channels: ``("position" | "rotation", axis)`` in the file's order.
        end: an end site, which has no channels.
    """

    name: str
    parent: int
    offset: list[float] = field(default_factory=lambda: [0.0, 0.0, 0.0])
    channels: list[tuple[str, int]] = field(default_factory=list)
    end: bool = False


@dataclass(frozen=True)
class BvhDocument:
    """A file.

    Args:
        joints: parents before children.
        frames: channel values ``(F, K)``, in the order of joints and their channels.
        frame_time: seconds.
        notes: what was wrong and how it was read all the same.
    """

    joints: tuple[Joint, ...]
    frames: Array
    frame_time: float
    notes: tuple[str, ...]


def damaged(path: Path, what: str) -> FoxHandError:
    """The error for a file that cannot be read."""
    return FoxHandError(
        "bvh.damaged",
        tr("{name} cannot be read as BVH: {what}.", name=path.name, what=what),
        KEPT,
        tr("Export it again, or open it in a text editor and look there."),
    )


def open_document(path: Path) -> BvhDocument:
    """Read a file.

    Raises:
        FoxHandError: ``bvh.damaged``, ``file.read``.
    """
    try:
        text = read_file(path, LARGEST).decode("utf-8", errors="replace")
    except OSError as error:
        reason = error.strerror or tr("it is not there")
        raise FoxHandError(
            "file.read",
            tr("{name} cannot be read ({reason}).", name=path.name, reason=reason),
            KEPT,
        ) from error
    head, _, motion = _split(text)
    joints = _Hierarchy(path, head).joints()
    frames, frame_time, notes = _motion(path, motion, sum(len(j.channels) for j in joints))
    return BvhDocument(tuple(joints), frames, frame_time, tuple(notes))


def _split(text: str) -> tuple[str, str, str]:
    for line in ("\nMOTION", "\rMOTION"):
        head, mark, motion = text.partition(line)
        if mark:
            return head, mark, motion
    return text, "", ""


class _Hierarchy:
    """Reads the first part line by line; names are whole lines, so they may hold blanks."""

    def __init__(self, path: Path, text: str) -> None:
        self._path = path
        # braces on the line of a name are as common as on a line of their own
        spread = text.replace("{", "\n{\n").replace("}", "\n}\n")
        self._lines = [line.strip() for line in spread.splitlines() if line.strip()]
        self._joints: list[Joint] = []
        self._stack: list[int] = []
        self._next: Joint | None = None

    def joints(self) -> list[Joint]:
        if not self._lines or self._lines[0].upper() != "HIERARCHY":
            raise damaged(self._path, tr("it does not begin with HIERARCHY"))
        for number, line in enumerate(self._lines[1:], 2):
            self._line(line, number)
            if len(self._joints) > MOST_JOINTS:
                raise damaged(
                    self._path, tr("it has more than {most_joints} joints", most_joints=MOST_JOINTS)
                )
        if self._stack or self._next is not None:
            raise damaged(self._path, tr("its hierarchy ends in the middle"))
        if not any(not j.end for j in self._joints):
            raise damaged(self._path, tr("it has no joints"))
        return self._joints

    def _line(self, line: str, number: int) -> None:
        word, _, rest = line.partition(" ") if " " in line else line.partition("\t")
        key = word.upper()
        if key in ("ROOT", "JOINT"):
            self._begin(rest.strip(), end=False)
        elif key == "END":
            self._begin("", end=True)
        elif line == "{":
            self._open(number)
        elif line == "}":
            if not self._stack:
                raise damaged(
                    self._path, tr("line {number} closes what was not open", number=number)
                )
            self._stack.pop()
        elif key == "OFFSET" and self._stack:
            self._joints[self._stack[-1]].offset = self._numbers(rest, number)
        elif key == "CHANNELS" and self._stack:
            self._joints[self._stack[-1]].channels = self._channels(rest, number)
        else:
            raise damaged(
                self._path, tr("line {number} says {line!r}", number=number, line=line[:40])
            )

    def _begin(self, name: str, *, end: bool) -> None:
        if self._next is not None:
            raise damaged(
                self._path, tr("{name} has no braces", name=self._next.name or tr("a joint"))
            )
        parent = self._stack[-1] if self._stack else -1
        if end:
            name = f"{self._joints[parent].name} end" if parent >= 0 else "end"
        self._next = Joint(name, parent, end=end)

    def _open(self, number: int) -> None:
        if self._next is None:
            raise damaged(self._path, tr("line {number} opens nothing", number=number))
        self._joints.append(self._next)
        self._stack.append(len(self._joints) - 1)
        self._next = None

    def _numbers(self, text: str, number: int) -> list[float]:
        try:
            values = [float(v) for v in text.replace(",", " ").split()]
        except ValueError as error:
            raise damaged(
                self._path, tr("line {number} has an offset that is no number", number=number)
            ) from error
        if len(values) != 3 or not measurable(values):
            raise damaged(self._path, tr("line {number} needs three numbers", number=number))
        return values

    def _channels(self, text: str, number: int) -> list[tuple[str, int]]:
        words = text.split()
        found = []
        for word in words[1:]:
            if word.lower() not in CHANNELS:
                raise damaged(
                    self._path,
                    tr(
                        "line {number} has an unknown channel {word!r}",
                        number=number,
                        word=word[:20],
                    ),
                )
            found.append(CHANNELS[word.lower()])
        if not words or not words[0].isdigit() or int(words[0]) != len(found):
            raise damaged(
                self._path, tr("line {number} counts its channels wrongly", number=number)
            )
        return found


def _motion(path: Path, text: str, width: int) -> tuple[Array, float, list[str]]:
    none = np.zeros((0, width))
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if not lines:
        return none, 1 / 30, []
    count, frame_time, notes = 0, 1 / 30, []
    first = 0
    for first, line in enumerate(lines):  # noqa: B007 - where the numbers begin
        key, _, value = line.partition(":")
        if key.strip().lower() == "frames":
            count = int(float(value)) if _is_number(value) else 0
        elif key.strip().lower() == "frame time":
            frame_time = float(value) if _is_number(value) and float(value) > 0 else 1 / 30
        else:
            break
    rows: list[list[float]] = []
    begun: list[float] = []  # some programs break the numbers of a frame over several lines
    for line in lines[first:]:
        values = line.split()
        sound = all(_is_number(v) for v in values)
        if not sound or len(begun) + len(values) > width:
            begun = [0.0]
            break
        begun += [float(v) for v in values]
        if len(begun) == width:
            rows.append(begun)
            begun = []
    if begun:
        notes.append(
            tr(
                "{name}: frame {count} is damaged; the motion ends there.",
                name=path.name,
                count=len(rows) + 1,
            )
        )
    if len(rows) != count:
        notes.append(
            tr(
                "{name} says {count} frames and has {count_2}.",
                name=path.name,
                count=count,
                count_2=len(rows),
            )
        )
    return (np.array(rows) if rows else none), frame_time, notes


def _is_number(text: str) -> bool:
    try:
        return measurable(float(text))
    except ValueError:
        return False
