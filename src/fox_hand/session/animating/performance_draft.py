"""Fitting a performance to a character: what is said and chosen, and what it comes to."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from dataclasses import replace
from pathlib import Path

import numpy as np
from psygnal import Signal

from fox_hand.base.motion_wish import MotionWish
from fox_hand.core.animation.performance import Performance
from fox_hand.core.model.controls import ControlKind
from fox_hand.core.model.state import State
from fox_hand.core.naming.side_region import side_from_name
from fox_hand.core.retarget.retarget import Landing
from fox_hand.core.retarget.stand_edits import Spans, spans_of
from fox_hand.core.retarget.transfer import FollowOptions
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.motions import read_performance
from fox_hand.library.format.name_map import NameMap
from fox_hand.session.animating.frame_sequence import FrameSequence
from fox_hand.session.animating.motion_import import keys_on, lost_words, options_for
from fox_hand.session.animating.performance_fit import PerformanceFit, PerformanceTold, Span
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.rig_files import keep_unit
from fox_hand.session.runtime.draft_history import DraftHistory

Later = Callable[[Callable[[], PerformanceFit], Callable[[PerformanceFit], None]], None]


class PerformanceDraft:
    """How a performance goes on a character, while it is looked at and changed.

    Args:
        performance: as it is in its file.
        name: of the file.
        actor: the character.
        names: what was said before about the two rigs.
        options: how it is carried over at first.
        later: runs work beside the window and hands on what it gave; without, it is done at once.
        unit: metres of one unit of the file, where somebody said it.
    """

    changed = Signal()

    def __init__(
        self,
        performance: Performance,
        name: str,
        actor: Figure,
        names: Mapping[str, str | None],
        options: FollowOptions,
        later: Later | None = None,
        unit: float | None = None,
    ) -> None:
        self.performance, self.name, self.actor = performance, name, actor
        told = PerformanceTold(dict(names), options, unit=unit)
        self.steps = DraftHistory(told)
        self._saved = dict(names)
        self._asked = self._answered = 0
        self.fit = PerformanceFit(performance, actor.rig, told)  # whoever makes it may be in a job
        self.later = later

    @property
    def told(self) -> PerformanceTold:
        """What was said and chosen until now."""
        return self.steps.now

    @property
    def computing(self) -> bool:
        """Whether an answer is still on its way."""
        return self._answered != self._asked

    def _tell(self, told: PerformanceTold, joined: str = "") -> None:
        before = self.told
        if self.steps.say(told, joined):
            self._follow(before)

    def undo(self) -> None:
        """Take back what was said last; redo says it again."""
        before = self.told
        if self.steps.go(-1):
            self._follow(before)

    def redo(self) -> None:
        before = self.told
        if self.steps.go(1):
            self._follow(before)

    def _follow(self, before: PerformanceTold) -> None:
        if replace(before, span=None) == replace(self.told, span=None):
            self.changed.emit()  # which frames go in changes nothing about them
        else:
            self._compute()

    def _compute(self) -> None:
        """Compute anew; of several questions only the last counts."""
        self._asked += 1
        number, told = self._asked, self.told
        performance, rig = self.performance, self.actor.rig

        def take(found: PerformanceFit) -> None:
            if number == self._asked:
                self.fit, self._answered = found, number
                self.changed.emit()

        if self.later is None:
            take(PerformanceFit(performance, rig, told))
        else:
            self.later(lambda: PerformanceFit(performance, rig, told), take)
            self.changed.emit()  # the numbers are on their way

    # -- what it comes to -----------------------------------------------------------------

    def __len__(self) -> int:
        return len(self.performance)

    @property
    def span(self) -> Span:
        """The first and the last frame that go in."""
        return self.told.span or (0, len(self) - 1)

    @property
    def lands(self) -> int:
        """Joints whose motion goes on; none where no joint has a partner."""
        if self.fit.made is None:
            return 0
        counts = self.fit.counts()
        return counts[Landing.LANDS] + counts[Landing.CORRECTED]

    @property
    def unsaved(self) -> int:
        """How many names were said and are not in the library yet."""
        names = self.told.names
        return sum(1 for name in {*names, *self._saved} if _differ(name, names, self._saved))

    def saved_as(self) -> NameMap:
        """Everything that was said about names, for the library."""
        return NameMap(self.performance.rig.name, self.actor.rig.name, names=dict(self.told.names))

    def was_saved(self) -> None:
        self._saved = dict(self.told.names)
        self.changed.emit()

    def spans(self, side: str) -> Spans:
        """On which frames a foot stands, as far as that is known."""
        made = self.fit.made
        said = self.told.options.spans.get(side)
        if said is not None:
            return said
        if made is None or made.stands is None or side not in made.stands.heels:
            return ()
        return spans_of(made.stands, side)

    def sequence(self) -> FrameSequence | None:
        """The frames that go in, to be looked through or laid in; None where nothing fits."""
        made = self.fit.made
        if made is None:
            return None
        loose = self.fit.loose
        inside = _frames(made.state, self.span)
        free = _frames(loose.state, self.span) if loose is not None and loose is not made else None
        words = tuple(lost_words(self.performance, self.actor.rig, made))
        rate, first = self.performance.rate, self.span[0]
        keys = {
            channel: replace(filed, frames=filed.frames - first)
            for channel, filed in keys_on(self.performance, self.actor.rig, made).items()
        }
        held = made.held.moved[first : self.span[1] + 1] if free is not None and made.held else None
        return FrameSequence(self.actor, inside, rate, self.name, words, free, keys, held)

    # -- changing -------------------------------------------------------------------------

    def say(self, source: str, target: str | None) -> None:
        """A joint stands for another, or with None for nothing."""
        names = {n: t for n, t in self.told.names.items() if target is None or t != target}
        self._tell(replace(self.told, names={**names, source: target}))

    def unsay(self, source: str) -> None:
        """Forget what was said about a joint; it is looked for again."""
        names = {n: t for n, t in self.told.names.items() if n != source}
        self._tell(replace(self.told, names=names))

    def confirm(self, sources: Collection[str], yes: bool) -> None:
        """Answer proposals, all with one word."""
        said = {r.source: r.target if yes else None for r in self.fit.rows if r.source in sources}
        self._tell(replace(self.told, names={**self.told.names, **said}))

    def free_targets(self, source: str) -> list[str]:
        """Joints of the character that follow nothing yet, or settings for a setting; those of the
        same side first."""
        rig, side = self.actor.rig, side_from_name(source)
        if source in self.performance.rig.setting_row:
            taken = {r.target for r in self.fit.rows}
            names = [s.name for s in rig.settings if s.name not in taken and not s.helper]
        else:
            names = [
                c.name
                for row, c in enumerate(rig.controls)
                if row not in self.fit.pairs and c.kind is ControlKind.JOINT and not c.helper
            ]
        return sorted(names, key=lambda n: (side_from_name(n) is not side, n.lower()))

    def set_options(self, *, feet: bool, hands: bool, stretch: bool, facing: bool) -> None:
        """How it is carried over; ``facing``: whether it looks where the recording looks."""
        options = self.told.options
        changed = replace(options, feet=feet, hands=hands, stretch=stretch, ahead=not facing)
        self._tell(replace(self.told, options=changed))

    @property
    def unit(self) -> float | None:
        """Metres of one unit of the file, where that does not say it."""
        return self.told.unit or self.performance.unit

    def set_unit(self, unit: float) -> None:
        """Say how long one unit of the file is."""
        self._tell(replace(self.told, unit=unit))

    def keep_unit(self) -> None:
        """Write what was said about the unit into the file's sidecar.

        Raises:
            FoxHandError: if it cannot be written.
        """
        if self.told.unit is not None and self.performance.rig.source:
            keep_unit(Path(self.performance.rig.source), self.told.unit)

    def set_span(self, first: int, last: int) -> None:
        """Which frames go in; one step however it was pulled."""
        last = min(max(last, 0), len(self) - 1)
        first = min(max(first, 0), last)
        whole = (first, last) == (0, len(self) - 1)
        self._tell(replace(self.told, span=None if whole else (first, last)), "span")

    def set_spans(self, side: str, spans: Spans) -> None:
        """On which frames a foot stands; stretches that touch become one."""
        marks = np.zeros(len(self), bool)
        for first, last in spans:
            marks[max(first, 0) : max(last, 0)] = True
        edges = np.flatnonzero(np.diff(np.concatenate([[0], marks.astype(np.int8), [0]])))
        joined = tuple((int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True))
        options = self.told.options
        changed = replace(options, spans={**options.spans, side: joined})
        self._tell(replace(self.told, options=changed))

    def find_spans(self) -> None:
        """Where feet stand is found again."""
        self._tell(replace(self.told, options=replace(self.told.options, spans={})))


def opened_performance(
    path: Path, actor: Figure, wish: MotionWish, told: Callable[[str, Rig], dict[str, str | None]]
) -> PerformanceDraft:
    """A motion file, to be fitted to a character.

    Args:
        path: the file.
        actor: the character.
        wish: how it is to be read.
        told: what was said before about the names of two rigs.

    Raises:
        FoxHandError: for files that cannot be read.
    """
    performance = read_performance(path, wish.rate, wish.animation, wish.metres_per_unit)
    names = told(performance.rig.name, actor.rig)
    return PerformanceDraft(performance, path.stem, actor, names, options_for(path))


def _frames(states: State, span: Span) -> State:
    return State(*(values[span[0] : span[1] + 1] for values in states.arrays()))


def _differ(name: str, one: Mapping[str, str | None], other: Mapping[str, str | None]) -> bool:
    return (name in one, one.get(name)) != (name in other, other.get(name))
