"""A flat puppet: parts that hang on each other and turn about their pivots."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from enum import StrEnum

from fox_hand.core.model.controls import Region, Side
from fox_hand.core.puppet.drawn import PartDrawing


class GuessKind(StrEnum):
    """What was guessed of a part."""

    HANGS = "hangs"
    PIVOT = "pivot"
    PARTNER = "partner"


@dataclass(frozen=True)
class Guess:
    """Something that nobody said and that was taken to be so.

    Args:
        kind: of what.
        part: its name.
        words: what was guessed: "Eye hangs on Head".
        why: what speaks for it: "its name says nothing; it lies on it".
        view: of the part.
    """

    kind: GuessKind
    part: str
    words: str
    why: str
    view: str = ""


@dataclass(frozen=True, eq=False)
class PuppetPart:
    """One part of a puppet.

    Args:
        name: unique within its view.
        drawings: they take turns; one is seen at a time.
        view: the view it belongs to; empty where there is one only.
        shown: which of the drawings is seen at rest.
        above: name of the part it hangs on, in the same view; None for the body.
        pivot: about which it turns, canvas pixels, y downwards.
        side, region: as of every control.
        partner: the part of the other side in the same view.
        limits: the least and the greatest turn, radians, counterclockwise; None for any.
        free: whether it can be moved off its pivot.
        lower: the part that makes a limb with it, whose tip a goal pulls; None for no limb.
        moved: how far its drawings lie from where their author put them, canvas pixels.
        label: what it is called where people see it; empty for its name, which stays as drawn.
        role: VRM 1.0 humanoid bone name; empty for none, None where nobody has said.
    """

    name: str
    drawings: tuple[PartDrawing, ...]
    view: str = ""
    shown: int = 0
    above: str | None = None
    pivot: tuple[float, float] = (0.0, 0.0)
    side: Side = Side.CENTRE
    region: Region = Region.TORSO
    partner: str | None = None
    limits: tuple[float, float] | None = None
    free: bool = False
    lower: str | None = None
    moved: tuple[float, float] = (0.0, 0.0)
    label: str = ""
    role: str | None = None

    @property
    def called(self) -> str:
        """What people see it called."""
        return self.label or self.name

    @property
    def seen(self) -> PartDrawing:
        """The drawing that is seen at rest."""
        return self.drawings[self.shown]

    def shifted(self, dx: float, dy: float) -> PuppetPart:
        """With its drawings elsewhere on the canvas; the pivot stays."""
        drawings = tuple(replace(d, left=d.left + dx, top=d.top + dy) for d in self.drawings)
        return replace(self, drawings=drawings, moved=(self.moved[0] + dx, self.moved[1] + dy))


@dataclass(frozen=True, eq=False)
class Aside:
    """A drawing that does not belong to the part it was drawn for.

    Args:
        view, part: where it was drawn.
        drawing: itself.
        into: the part that has it instead, in the same view; empty where nobody does.
    """

    view: str
    part: str
    drawing: PartDrawing
    into: str = ""


@dataclass(frozen=True, eq=False)
class Puppet:
    """Everything a flat puppet is made of.

    Args:
        name: of the character.
        width, height: of the canvas, pixels.
        parts: of all views, what is in front first.
        guesses: what a person has not said and may want to look at.
        notes: sentences on what was left out.
        aside: drawings that are not used, or by other parts than they were drawn for.
    """

    name: str
    width: int
    height: int
    parts: tuple[PuppetPart, ...]
    guesses: tuple[Guess, ...] = ()
    notes: tuple[str, ...] = field(default_factory=tuple)
    aside: tuple[Aside, ...] = ()

    @property
    def unused(self) -> tuple[Aside, ...]:
        """Drawings that no part has."""
        return tuple(one for one in self.aside if not one.into)

    @property
    def views(self) -> tuple[str, ...]:
        """Names of the views; one empty name where there are none."""
        return tuple(dict.fromkeys(part.view for part in self.parts))

    def of_view(self, view: str) -> tuple[PuppetPart, ...]:
        """The parts of one view, in front first."""
        return tuple(part for part in self.parts if part.view == view)

    def part(self, name: str, view: str = "") -> PuppetPart:
        """A part by its name.

        Raises:
            KeyError: if there is none.
        """
        for part in self.parts:
            if (part.view, part.name) == (view, name):
                return part
        raise KeyError(name)

    def with_part(self, part: PuppetPart) -> Puppet:
        """With another part in the place of the one of its name."""
        key = part.view, part.name
        parts = tuple(part if (p.view, p.name) == key else p for p in self.parts)
        return replace(self, parts=parts)

    def without_drawing(self, view: str, name: str, number: int) -> Puppet:
        """With one of a part's drawings put aside; the last one stays.

        Args:
            view, name: the part.
            number: of the drawing.
        """
        part = self.part(name, view)
        if len(part.drawings) < 2:
            return self
        drawing = part.drawings[number]
        left = part.drawings[:number] + part.drawings[number + 1 :]
        shown = part.shown - (part.shown > number or part.shown == len(left))
        found = self.with_part(replace(part, drawings=left, shown=max(shown, 0)))
        known = next((a for a in self.aside if a.drawing is drawing), None)
        origin = (view, name) if known is None else (known.view, known.part)
        others = tuple(a for a in self.aside if a.drawing is not drawing)
        return replace(found, aside=(*others, Aside(*origin, drawing)))

    def with_drawing(self, aside: Aside, name: str) -> Puppet:
        """With a drawing that was put aside as one of a part's; back in its own part it is as it
        was."""
        part = self.part(name, aside.view)
        taken = {d.name for d in part.drawings}
        drawing, number = aside.drawing, 2
        while drawing.name in taken:
            drawing = replace(aside.drawing, name=f"{aside.drawing.name} {number}")
            number += 1
        found = self.with_part(replace(part, drawings=(*part.drawings, drawing)))
        others = tuple(a for a in self.aside if a is not aside)
        if name == aside.part:
            return replace(found, aside=others)
        return replace(found, aside=(*others, replace(aside, drawing=drawing, into=name)))

    def circle(self, name: str, view: str = "") -> bool:
        """Whether a part hangs on itself, by way of others."""
        above = {part.name: part.above for part in self.of_view(view)}
        way, at = {name}, above[name]
        while at is not None and at not in way:
            way.add(at)
            at = above.get(at)
        return at == name

    def root(self, view: str) -> PuppetPart:
        """What all others of a view hang on."""
        return next(part for part in self.of_view(view) if part.above is None)
