"""A puppet while it is being put together from drawings: every step can be undone, and what was
said is kept beside the drawings."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.model.controls import Region, Side
from fox_hand.core.puppet.puppet import Aside, Guess, GuessKind, Puppet, PuppetPart
from fox_hand.interchange.puppets.puppet_file import HEIGHT
from fox_hand.session.puppets.making import (
    MadePuppet,
    drawings_mark,
    height_of,
    puppet_of,
    said_again,
    write_draft,
    write_puppet,
)
from fox_hand.session.runtime.draft_history import DraftHistory

Key = tuple[str, str]  # view and name of a part


class PuppetAssembly:
    """What is said of drawings, with undo.

    Args:
        puppet: as it was guessed, and said before.
        source: the folder or file of drawings.
        height: of the canvas, metres.
    """

    changed = Signal()

    def __init__(self, puppet: Puppet, source: Path, height: float = HEIGHT) -> None:
        self.source, self.height = source, height
        self.steps = DraftHistory(puppet)
        self._kept = puppet
        self._mark = drawings_mark(source)

    @staticmethod
    def of(source: Path, progress: Progress | None = None) -> PuppetAssembly:
        """Read drawings and guess, in a job.

        Raises:
            FoxHandError: if they cannot be read.
            Cancelled: by the progress.
        """
        return PuppetAssembly(puppet_of(source, progress=progress), source, height_of(source, None))

    @property
    def puppet(self) -> Puppet:
        """As it is now."""
        return self.steps.now

    @property
    def unsaved(self) -> bool:
        """Whether something was said that the draft does not say yet."""
        return self.puppet is not self._kept

    def undo(self) -> None:
        if self.steps.go(-1):
            self.changed.emit()

    def redo(self) -> None:
        if self.steps.go(1):
            self.changed.emit()

    def _say(self, puppet: Puppet, joined: str = "") -> None:
        if self.steps.say(puppet, joined):
            self.changed.emit()

    def _put(self, part: PuppetPart, answered: GuessKind | None = None, joined: str = "") -> None:
        """Another part in the place of the one of its name; what was guessed of it is said now."""
        puppet = self.puppet.with_part(part)
        if answered is not None:
            puppet = replace(
                puppet,
                guesses=tuple(
                    g
                    for g in puppet.guesses
                    if (g.view, g.part, g.kind) != (part.view, part.name, answered)
                ),
            )
        self._say(puppet, joined)

    def part(self, key: Key) -> PuppetPart:
        """A part by view and name."""
        return self.puppet.part(key[1], key[0])

    # -- what can be said -----------------------------------------------------------------

    def set_pivot(self, key: Key, x: float, y: float, joined: str = "") -> None:
        """Where a part turns.

        Args:
            key: the part.
            x, y: canvas pixels, y downwards.
            joined: steps of one word that follow each other are one.
        """
        part = self.part(key)
        if part.pivot != (x, y):
            self._put(replace(part, pivot=(x, y)), GuessKind.PIVOT, joined)

    def shift(self, key: Key, dx: float, dy: float, joined: str = "") -> None:
        """Move a whole part, all its drawings and its pivot, and what hangs on it.

        Args:
            key: the part.
            dx, dy: canvas pixels, y downwards.
            joined: as of :meth:`set_pivot`.
        """
        puppet, names = self.puppet, self.below(key)
        for name in names:
            part = puppet.part(name, key[0]).shifted(dx, dy)
            x, y = part.pivot
            puppet = puppet.with_part(replace(part, pivot=(x + dx, y + dy)))
        self._say(puppet, joined)

    def below(self, key: Key) -> list[str]:
        """A part and everything that hangs on it."""
        parts = self.puppet.of_view(key[0])
        found = [key[1]]
        for name in found:
            found += [part.name for part in parts if part.above == name]
        return found

    def hang(self, key: Key, above: str) -> None:
        """Hang a part on another one.

        Raises:
            FoxHandError: ``puppet.circle`` if that hangs on it, ``puppet.body`` for the body.
        """
        part = self.part(key)
        if part.above is None:
            raise FoxHandError(
                "puppet.body",
                tr("{name} is the body, so it hangs on nothing.", name=part.name),
                tr("Nothing was changed."),
                tr("Make another part the body first."),
            )
        if above in self.below(key):
            raise FoxHandError(
                "puppet.circle",
                tr(
                    "{name} cannot hang on {above}, which hangs on it.", name=part.name, above=above
                ),
                tr("Nothing was changed."),
                tr("Hang {above} elsewhere first.", above=above),
            )
        if part.above != above:
            self._put(replace(part, above=above), GuessKind.HANGS)

    def make_body(self, key: Key) -> None:
        """Turn round what hangs on what between the body and a part, which is the body then."""
        puppet, at, above = self.puppet, self.part(key), None
        while True:
            then = at.above
            puppet = puppet.with_part(replace(at, above=above, free=above is None or at.free))
            if then is None:
                break
            above, at = at.name, puppet.part(then, key[0])
        self._say(puppet)

    def set_side(self, key: Key, side: Side) -> None:
        self._put(replace(self.part(key), side=side))

    def set_region(self, key: Key, region: Region) -> None:
        self._put(replace(self.part(key), region=region))

    def set_role(self, key: Key, role: str | None) -> None:
        """Which humanoid bone it stands for; another part of its view that stood for it does not
        any more.

        Args:
            key: the part.
            role: VRM 1.0 humanoid bone name; empty for none, None for what its name says.
        """
        puppet = self.puppet
        for part in puppet.of_view(key[0]):
            if role and part.role == role:
                puppet = puppet.with_part(replace(part, role=""))
        self._say(puppet.with_part(replace(puppet.part(key[1], key[0]), role=role)))

    def set_free(self, key: Key, free: bool) -> None:
        """Whether it moves off its pivot."""
        self._put(replace(self.part(key), free=free))

    def set_limits(self, key: Key, limits: tuple[float, float] | None, joined: str = "") -> None:
        """The least and the greatest turn.

        Args:
            key: the part.
            limits: radians, counterclockwise; None for any.
            joined: as of :meth:`set_pivot`.
        """
        self._put(replace(self.part(key), limits=limits), joined=joined)

    def set_limb(self, key: Key, lower: str | None) -> None:
        """The part that makes a limb with the one it hangs on, its tip with a goal; or none."""
        if self.part(key).lower != lower:
            self._put(replace(self.part(key), lower=lower))

    def rename(self, key: Key, label: str) -> None:
        """What a part is called where people see it; empty for the name it was drawn by."""
        part = self.part(key)
        label = "" if label.strip() == part.name else label.strip()
        if part.label != label:
            self._put(replace(part, label=label))

    def put_aside(self, key: Key, number: int) -> None:
        """Do not use one of a part's drawings.

        Raises:
            FoxHandError: ``puppet.last_drawing`` for the only one.
        """
        part = self.part(key)
        if len(part.drawings) < 2:
            raise FoxHandError(
                "puppet.last_drawing",
                tr("{called} has no other drawing.", called=part.called),
                tr("Nothing was changed."),
                tr("Give it another one first."),
            )
        self._say(self.puppet.without_drawing(key[0], key[1], number))

    def use(self, aside: Aside, name: str) -> None:
        """Give a drawing that was put aside to a part of its view."""
        if aside in self.puppet.aside:
            self._say(self.puppet.with_drawing(aside, name))

    def set_shown(self, key: Key, number: int) -> None:
        """Which of its drawings is seen at rest."""
        if self.part(key).shown != number:
            self._put(replace(self.part(key), shown=number))

    def set_partner(self, key: Key, partner: str | None) -> None:
        """The part of the other side; it has this one for its partner, and who had either of them
        before is alone."""
        view, name = key
        puppet = self.puppet
        for part in puppet.of_view(view):
            mine = part.name in (name, partner)
            other = partner if part.name == name else name
            if mine:
                puppet = puppet.with_part(replace(part, partner=other if partner else None))
            elif part.partner in (name, partner):
                puppet = puppet.with_part(replace(part, partner=None))
        answered = {(view, one, GuessKind.PARTNER) for one in (name, partner)}
        guesses = tuple(g for g in puppet.guesses if (g.view, g.part, g.kind) not in answered)
        self._say(replace(puppet, guesses=guesses))

    def place(self, key: Key, place: int) -> None:
        """Bring a part forwards or back among those of its view; 0 is in front of all."""
        view, name = key
        order = [part for part in self.puppet.of_view(view) if part.name != name]
        order.insert(max(0, min(place, len(order))), self.part(key))
        if [p.name for p in order] == [p.name for p in self.puppet.of_view(view)]:
            return
        parts: list[PuppetPart] = []
        for one in self.puppet.views:
            parts += order if one == view else self.puppet.of_view(one)
        self._say(replace(self.puppet, parts=tuple(parts)))

    def answer(self, guess: Guess) -> None:
        """It is as it was guessed."""
        left = tuple(g for g in self.puppet.guesses if g != guess)
        if len(left) < len(self.puppet.guesses):
            self._say(replace(self.puppet, guesses=left))

    def answer_all(self) -> None:
        """All of it is as it was guessed."""
        if self.puppet.guesses:
            self._say(replace(self.puppet, guesses=()))

    # -- drawn anew -----------------------------------------------------------------------

    @property
    def stale(self) -> bool:
        """Whether the drawings on disk are not those that were read."""
        return drawings_mark(self.source) != self._mark

    def again(self, progress: Progress | None = None) -> Puppet:
        """The drawings as they are now with all that was said of them, in a job.

        Raises:
            FoxHandError: if they cannot be read.
            Cancelled: by the progress.
        """
        return said_again(self.puppet, self.source, progress)

    def take(self, puppet: Puppet) -> None:
        """Drawings that were read again."""
        self._mark = drawings_mark(self.source)
        self._say(puppet)

    # -- keeping and making ---------------------------------------------------------------

    def keep(self) -> Path:
        """Write the draft beside the drawings.

        Raises:
            FoxHandError: if it cannot be written.
        """
        puppet = self.puppet
        path = write_draft(puppet, self.source, self.height)
        self._kept = puppet
        return path

    def make(self, out: Path, progress: Progress | None = None) -> MadePuppet:
        """Write the puppet's files and keep the draft, in a job.

        Raises:
            FoxHandError: if they cannot be written.
            Cancelled: by the progress.
        """
        puppet = self.puppet
        made = write_puppet(puppet, out, self.source, self.height, progress)
        self.keep()
        return made
