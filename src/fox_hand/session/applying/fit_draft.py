"""Fitting a card to a character: what is said and chosen, and what it comes to."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import replace

from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.core.matching.name_match import MatchSource, Rules
from fox_hand.core.naming.side_region import side_from_name
from fox_hand.core.pose.pose import Pose, take
from fox_hand.core.retarget.retarget import FitOptions, Fitted, Landing
from fox_hand.core.rig.rig import Rig
from fox_hand.library.format.card import Card
from fox_hand.library.format.name_map import NameMap
from fox_hand.session.applying.fit_result import Asked, FitResult, FitRow, Told
from fox_hand.session.figures.figure import Figure
from fox_hand.session.runtime.draft_history import DraftHistory

NOTHING = NameMap("", "")
Later = Callable[[Callable[[], FitResult], Callable[[FitResult], None]], None]


class FitDraft:
    """How a card goes on a character, while it is looked at and changed.

    Args:
        card: what is carried over.
        actor: the character.
        known: what was said before about the two rigs.
        source: the card's own rig, if it is on the stage.
        later: runs work beside the window and hands on what it gave; without, it is done at once.
    """

    changed = Signal()

    def __init__(
        self,
        card: Card,
        actor: Figure,
        known: NameMap = NOTHING,
        source: Rig | None = None,
        later: Later | None = None,
    ) -> None:
        self.card, self.actor, self.source = card, actor, source
        self.steps = DraftHistory(Told(dict(known.names), known.rules))
        self._saved = dict(known.names), known.rules
        self._asked = self._answered = 0
        self.later: Later | None = None
        self.outcome = FitResult(self._question())  # whoever makes a draft may be in a job
        self.later = later

    def _question(self) -> Asked:
        actor = self.actor
        return Asked(
            self.card,
            actor.rig,
            actor.state,
            actor.locks,
            self.source,
            self.told,
        )

    @property
    def told(self) -> Told:
        """What was said and chosen until now."""
        return self.steps.now

    def _tell(self, told: Told, joined: str = "") -> None:
        if self.steps.say(told, joined):
            self._compute()

    def undo(self) -> None:
        """Take back what was said last; redo says it again."""
        if self.steps.go(-1):
            self._compute()

    def redo(self) -> None:
        if self.steps.go(1):
            self._compute()

    def _compute(self) -> None:
        """Compute anew; of several questions only the last counts."""
        self._asked += 1
        number, question = self._asked, self._question()

        def take(outcome: FitResult) -> None:
            if number == self._asked:
                self.outcome = outcome
                self._answered = number
                self.changed.emit()

        if self.later is None:
            take(FitResult(question))
        else:
            self.later(lambda: FitResult(question), take)

    # -- what it comes to -----------------------------------------------------------------

    @property
    def unsaved(self) -> int:
        """How many names were said and are not in the library yet, rules included."""
        names, rules = self._saved
        changed = sum(1 for n, t in self.told.names.items() if names.get(n, "") != t)
        return changed + (self.told.rules != rules)

    def counts(self) -> dict[Landing, int]:
        """How many controls go which way; each is counted once."""
        found = dict.fromkeys(Landing, 0)
        for row in self.rows:
            found[row.landing] += 1
        return found

    @property
    def lands(self) -> int:
        """Controls that go on, corrected or stopped or not."""
        found = self.counts()
        return found[Landing.LANDS] + found[Landing.CORRECTED] + found[Landing.LIMIT]

    @property
    def pose(self) -> Pose:
        """The card's pose with the character's names and values."""
        return take(self.actor.rig, self.fitted.state, self.fitted.choice)

    def as_card(self) -> Card:
        """The card for this character."""
        rig = self.actor.rig
        return replace(self.card, pose=self.pose, character=rig.name, fingerprint=rig.fingerprint)

    @property
    def rows(self) -> tuple[FitRow, ...]:
        return self.outcome.rows

    @property
    def fitted(self) -> Fitted:
        return self.outcome.fitted

    @property
    def problem(self) -> FoxHandError | None:
        """What is wrong with the rules."""
        return self.outcome.problem

    @property
    def computing(self) -> bool:
        """Whether an answer is still on its way."""
        return self._answered != self._asked

    # -- changing -------------------------------------------------------------------------

    def say(self, source: str, target: str | None) -> None:
        """A name stands for another, or with None for nothing."""
        self._tell(replace(self.told, names={**self.told.names, source: target}))

    def unsay(self, source: str) -> None:
        """Forget what was said about a name; it is looked for again."""
        names = {n: t for n, t in self.told.names.items() if n != source}
        self._tell(replace(self.told, names=names))

    def confirm(self, sources: Collection[str], yes: bool) -> None:
        """Answer proposals, all with one word."""
        said = {r.source: r.target if yes else None for r in self.rows if r.source in sources}
        self._tell(replace(self.told, names={**self.told.names, **said}))

    @property
    def likely(self) -> list[str]:
        """Names that are asked about because they may have the same humanoid role."""
        ask = (r for r in self.rows if r.landing is Landing.ASK)
        return [r.source for r in ask if r.found is MatchSource.LIKELY]

    def alike(self, source: str) -> tuple[str, ...]:
        """Other proposals that change a name in the same way as this one."""
        rows = {r.source: r for r in self.rows if r.landing is Landing.ASK}
        row = rows.get(source)
        if row is None or row.target is None:
            return ()
        change = _change(row.source, row.target)
        return tuple(
            n
            for n, r in rows.items()
            if n != source and r.target is not None and _change(n, r.target) == change
        )

    def set_rules(self, rules: Rules) -> None:
        """Rules as they are typed; one step until something else is said."""
        self._tell(replace(self.told, rules=rules), "rules")

    def set_options(self, options: FitOptions, *, limits: bool, lifted: bool) -> None:
        """How turns and places are carried over, whether limits stop turns, and whether locks are
        taken off for this once."""
        self._tell(replace(self.told, options=options, limits=limits, lifted=lifted))

    def saved_as(self) -> NameMap:
        """Everything that was said, for the library."""
        told = self.told
        return NameMap(self.card.character, self.actor.rig.name, told.rules, dict(told.names))

    def was_saved(self) -> None:
        self._saved = dict(self.told.names), self.told.rules
        self.changed.emit()

    @property
    def taken_names(self) -> frozenset[str]:
        """Names of the card of which anything goes on."""
        controls, settings = self.outcome.taken
        held = self.card.pose.controls
        return frozenset(
            n for n, h in held.items() if n in controls or any(s in settings for s in h.settings)
        )

    def free_targets(self, source: str) -> list[str]:
        """Names on the character that nothing stands for yet, those of the same side first."""
        taken = {r.target for r in self.rows if r.landing is not Landing.ASK}
        side = side_from_name(source)
        names = [c.name for c in self.actor.rig.controls if c.name not in taken and not c.helper]
        return sorted(names, key=lambda n: (side_from_name(n) is not side, n.lower()))

    def rule_hits(self) -> list[int]:
        """For each rule how many of the card's names it changes."""
        rules = self.told.rules
        try:
            return rules.hits(self.card.pose.controls)
        except FoxHandError:
            return [0] * len(rules.items)


def _change(source: str, target: str) -> tuple[str, str]:
    """What a match does to a name, without what the two have in common at their ends."""
    start = 0
    low_s, low_t = source.lower(), target.lower()
    while start < min(len(low_s), len(low_t)) and low_s[start] == low_t[start]:
        start += 1
    return low_s[start:], low_t[start:]
