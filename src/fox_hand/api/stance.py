"""How a rig stands: values in, values out, cards put on, mirrored, blended and captured."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import TYPE_CHECKING, Any, Literal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr

if TYPE_CHECKING:
    from fox_hand.api.card import Card
    from fox_hand.api.fit import Fit
    from fox_hand.api.rig import Rig
    from fox_hand.core.model.state import State
    from fox_hand.session.applying.application import How
    from fox_hand.session.figures.figure import Figure

SideWord = Literal["captured", "other", "both"]
WayWord = Literal["replace", "on top"]
Values = Mapping[str, Mapping[str, float]]
Matrix = tuple[tuple[float, float, float, float], ...]
LOWEST, HIGHEST = -0.5, 1.5  # of one card; of several each has 0 to 1


def figure_of(stance: Stance) -> Figure:
    """The same as the session works with it."""
    from fox_hand.session.figures.figure import Figure

    figure = Figure(stance.rig.core, stance.rig.path)
    figure.stand(stance.state)
    return figure


class Stance:
    """How one rig stands. It never changes; what changes something gives another one."""

    def __init__(self, rig: Rig, state: State) -> None:
        self.rig, self.state = rig, state

    def __repr__(self) -> str:
        return f"<Stance of {self.rig.name}, {len(self.values(moved=True))} controls moved>"

    # -- values ---------------------------------------------------------------------------

    def values(
        self, controls: Iterable[str] | None = None, *, moved: bool = False
    ) -> dict[str, dict[str, float]]:
        """Its values by control and channel.

        Args:
            controls: of which; None for all.
            moved: only of those that are away from rest.

        Raises:
            FoxHandError: ``api.no_control``.
        """
        from fox_hand.api.values import channel_values
        from fox_hand.core.pose.pose import ChannelFilter, take

        core = self.rig.core
        rows = range(len(core.controls)) if controls is None else self._rows(controls)
        if moved:
            away = self.state.differs_from(core.rest, core.settings_of)
            rows = [row for row in rows if away[row]]
        pose = take(core, self.state, ChannelFilter.of(core, rows))
        return channel_values(core, self.state, pose)[0]

    def with_values(self, values: Values, *, limits: bool = True) -> Stance:
        """Some values set, the others as they are.

        Args:
            values: control -> channel -> number.
            limits: refuse what locks and limits do not allow.

        Raises:
            FoxHandError: ``api.no_control``, ``api.no_channel``, ``api.no_number`` or
                ``api.out_of_range``; nothing is bent in silence.
        """
        from fox_hand.api.values import with_values

        return Stance(self.rig, with_values(self.rig.core, self.state, values, limits=limits))

    def nodes(self) -> dict[str, dict[str, list[float]]]:
        """The nodes of the file that stand otherwise than at rest, with everything solved:
        ``translation``, ``rotation`` (x, y, z, w) and ``scale`` in their parents' frames."""
        from fox_hand.api.values import moved_nodes

        return moved_nodes(self.rig.core, self.state)

    def matrices(self) -> dict[str, Matrix]:
        """World matrices of all nodes in metres, rows of four; they act on column vectors."""
        at, names = self.rig.core.evaluate(self.state), self.rig.core.skeleton.names
        rows = at.nodes[: len(names)].tolist()
        return {n: tuple(map(tuple, m)) for n, m in zip(names, rows, strict=True)}

    # -- other stances --------------------------------------------------------------------

    def wearing(
        self,
        card: Card,
        amount: float = 1.0,
        *,
        side: SideWord = "captured",
        way: WayWord = "replace",
        controls: Iterable[str] | None = None,
        regions: Collection[str] | None = None,
        limits: bool = True,
    ) -> Stance:
        """With a card on it, fitted where it is another rig's. Of a clip that is its beginning.

        Args:
            card: what goes on.
            amount: how much of it, -0.5 to 1.5; 1 is the card itself.
            side: as captured, on the other side, or on both.
            way: in the place of what is there, or added to it.
            controls, regions: only there; None for everywhere.
            limits: what locks and limits forbid stays.

        Raises:
            FoxHandError: ``mix.nothing_lands``, ``api.amount``, ``api.no_control``,
                ``api.no_region``, ``api.no_word``.
        """
        if not LOWEST <= amount <= HIGHEST:
            raise _refused("api.amount", tr("An amount goes from -0.5 to 1.5."))
        how = self._how(side, way, controls, regions)
        return self._put_on([(card, amount)], how, limits=limits)

    def mixed(
        self,
        cards: Sequence[tuple[Card, float]],
        *,
        side: SideWord = "captured",
        way: WayWord = "replace",
        limits: bool = True,
    ) -> Stance:
        """With several cards on it, each with a weight of 0 to 1. For every control those that hold
        it share it by their weights; what they leave up to one stays as it is.

        Raises:
            FoxHandError: as :meth:`wearing`.
        """
        if not all(0.0 <= weight <= 1.0 for _, weight in cards):
            raise _refused("api.amount", tr("In a mix every card has a weight from 0 to 1."))
        if not cards:
            return self
        return self._put_on(cards, self._how(side, way, None, None), limits=limits)

    def blended(self, other: Stance, amount: float) -> Stance:
        """Some of the way to another stance of the same rig: 0 is this one, 1 the other.

        Raises:
            FoxHandError: ``api.other_rig``.
        """
        from fox_hand.core.pose.blend import blend
        from fox_hand.core.pose.pose import ChannelFilter, bind, take

        core = self.rig.core
        if other.rig.core is not core and other.rig.fingerprint != self.rig.fingerprint:
            said = tr("{one} and {other} are not one rig.", one=self.rig.name, other=other.rig.name)
            raise _refused("api.other_rig", said)
        everything = ChannelFilter.of(core, range(len(core.controls)))
        pose = bind(take(core, other.state, everything), core)
        return Stance(self.rig, blend(self.state, pose, amount, core.setting_rules))

    def mirrored(self, controls: Iterable[str] | None = None) -> Stance:
        """Left and right exchanged.

        Args:
            controls: only these get the mirror image of their partners; None for all.

        Raises:
            FoxHandError: ``api.no_control``.
        """
        from fox_hand.core.pose.mirror import mirror

        rows = None if controls is None else self._rows(controls)
        return Stance(self.rig, mirror(self.rig.core, self.state, rows))

    # -- cards ----------------------------------------------------------------------------

    def fit(self, card: Card, names: Mapping[str, str | None] | None = None) -> Fit:
        """How a card of another rig goes on this one, control by control.

        Args:
            card: what goes on.
            names: by the card's name this rig's, or None where it has nothing; what the card's
                library knows about the two rigs counts where this says nothing.
        """
        from fox_hand.api.fit import fit_report

        return fit_report(self, card, names or {})

    def capture(
        self,
        name: str,
        *,
        controls: Iterable[str] | None = None,
        tags: Iterable[str] = (),
        note: str = "",
        author: str = "",
        licence: str = "",
    ) -> Card:
        """A card of it, which :meth:`Library.add` writes.

        Args:
            name: of the card.
            controls: what goes in of which; None for all that is away from rest.
            tags, note, author, licence: as on the card.

        Raises:
            FoxHandError: ``api.empty`` without a name or where nothing goes in,
                ``api.no_control``.
        """
        from fox_hand.api.card import Card
        from fox_hand.session.capturing.draft import CaptureDraft

        rows = [] if controls is None else self._rows(controls)
        draft = CaptureDraft(figure_of(self), rows, self.state)
        if controls is None:
            draft.take_exactly(draft.away())
        draft.name, draft.note, draft.author, draft.licence = name, note, author, licence
        draft.tags = tuple(tags)
        problem = draft.why_not()
        if problem is not None:
            raise _refused("api.empty", problem)
        return Card(draft.card())

    def _rows(self, controls: Iterable[str]) -> list[int]:
        known, found = self.rig.core.control_row, []
        for name in controls:
            if name not in known:
                said = tr("{rig} has no control {name}.", rig=self.rig.name, name=name)
                raise _refused("api.no_control", said)
            found.append(known[name])
        return found

    def _how(
        self,
        side: SideWord,
        way: WayWord,
        controls: Iterable[str] | None,
        regions: Collection[str] | None,
    ) -> How:
        from fox_hand.core.model.controls import Region
        from fox_hand.core.pose.sides import Sides
        from fox_hand.session.applying.application import How, Part, Way

        for word, kind in ((side, Sides), (way, Way)):
            if word not in set(kind):
                words = ", ".join(kind)
                said = tr("There is no {word}; there are {known}.", word=word, known=words)
                raise _refused("api.no_word", said)
        known = [r.value for r in Region]
        for name in regions or ():
            if name not in known:
                words = ", ".join(known)
                said = tr("There is no region {name}; there are {known}.", name=name, known=words)
                raise _refused("api.no_region", said)
        chosen: dict[str, Any] = {}
        if controls is not None:
            chosen = {"part": Part.SELECTED, "selected": frozenset(self._rows(controls))}
        elif regions is not None:
            chosen = {"part": Part.REGIONS, "regions": frozenset(map(Region, regions))}
        return How(Sides(side), way=Way(way), **chosen)

    def _put_on(self, cards: Sequence[tuple[Card, float]], how: How, *, limits: bool) -> Stance:
        from fox_hand.api.card import place_of
        from fox_hand.core.pose.pose import bind
        from fox_hand.session.app.headless import card_on
        from fox_hand.session.applying.application import Application, Weights

        figure, core = figure_of(self), self.rig.core
        ready = [card_on(card.core, figure, place_of(card)) for card, _ in cards]
        poses = [bind(one.card.pose, core) for one in ready]
        putting = Application(figure, figure.state, poses, how)
        weights = [Weights(weight) for _, weight in cards]
        return Stance(self.rig, putting.at(weights) if limits else putting.wanted(weights))


def _refused(code: str, said: str) -> FoxHandError:
    return FoxHandError(code, said, tr("Nothing was changed."))
