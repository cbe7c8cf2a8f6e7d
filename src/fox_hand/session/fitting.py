"""Fitting a card to a character: what matches, what lands, and what stays out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.core.bounds import Lock, within
from fox_hand.core.controls import Region, Side
from fox_hand.core.fitting import FitOptions, Fitted, Landed, Landing, fit
from fox_hand.core.name_match import Found, Match, Rules, match_names
from fox_hand.core.naming import region_from_name, side_from_name
from fox_hand.core.pose import Pose, take
from fox_hand.core.rig import Rig
from fox_hand.core.roles import infer_roles
from fox_hand.core.rotations import angle_between
from fox_hand.core.state import State
from fox_hand.library.card import Card
from fox_hand.library.name_map import NameMap
from fox_hand.session.actor import Actor
from fox_hand.session.capture_sides import state_of

NOTHING = NameMap("", "")


@dataclass(frozen=True)
class FitRow:
    """One control of the card, and what happens to it.

    Args:
        source: its name in the card.
        target: its name on the character; None if there is none.
        landing: see there.
        detail: in words, such as ``turned 90° by rest``.
        found: how the name was matched.
        region, side: where it belongs.
    """

    source: str
    target: str | None
    landing: Landing
    detail: str
    found: Found
    region: Region
    side: Side


def foreign(card: Card, rig: Rig) -> bool:
    """Whether a card was taken from another rig than this one."""
    return bool(card.fingerprint) and card.fingerprint != rig.fingerprint


def roles_of(pose: Pose) -> dict[str, str]:
    """Humanoid roles of a pose's controls, as far as their names say them."""
    names = [n for n, h in pose.controls.items() if h.rest is not None]
    number = {name: i for i, name in enumerate(names)}
    parents = [number.get(_parent(pose, name) or "", -1) for name in names]
    sides = [side_from_name(n) or Side.CENTRE for n in names]
    roles = infer_roles(names, sides, parents)
    return {name: role for name, role in zip(names, roles, strict=True) if role is not None}


def _parent(pose: Pose, name: str) -> str | None:
    rest = pose.controls[name].rest
    return rest.parent if rest is not None else None


class FitDraft:
    """How a card goes on a character, while it is looked at and changed.

    Args:
        card: what is carried over.
        actor: the character.
        known: what was said before about the two rigs.
        source: the card's own rig, if it is on the stage.
    """

    changed = Signal()

    def __init__(
        self, card: Card, actor: Actor, known: NameMap = NOTHING, source: Rig | None = None
    ) -> None:
        self.card, self.actor, self.source = card, actor, source
        self.rules = known.rules
        self.said: dict[str, str | None] = dict(known.names)
        self._saved = dict(known.names), known.rules
        self.options = FitOptions()
        self.limits = True
        self.lifted = False  # whether locks are taken off for this once
        self.rows: tuple[FitRow, ...] = ()
        self.fitted: Fitted
        self.problem: FoxHandError | None = None
        self._compute()

    # -- what it comes to -----------------------------------------------------------------

    @property
    def unsaved(self) -> int:
        """How many names were said and are not in the library yet, rules included."""
        names, rules = self._saved
        changed = sum(1 for n, t in self.said.items() if names.get(n, "") != t)
        return changed + (self.rules != rules)

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

    def names_only(self) -> State:
        """How the character would stand with the names exchanged and nothing else."""
        plain = FitOptions(stance=False, correct=False, stretch=False)
        found = fit(self.card.pose, self.actor.rig, *self._taken(), plain)
        return self.worn(found)

    def worn(self, fitted: Fitted | None = None) -> State:
        """The character as it stands, wearing the fitted pose within locks and limits."""
        wanted = self._wanted(fitted or self.fitted)
        if not self.limits:
            return wanted
        locks: frozenset[Lock] = frozenset() if self.lifted else self.actor.locks
        return within(self.actor.rig, locks, self.actor.state, wanted)

    def _wanted(self, fitted: Fitted) -> State:
        state = self.actor.state
        move, turn, scale = state.move.copy(), state.turn.copy(), state.scale.copy()
        settings = state.settings.copy()
        for row, kinds in fitted.choice.channels.items():
            for kind, mine, theirs in (
                ("move", move, fitted.state.move),
                ("turn", turn, fitted.state.turn),
                ("scale", scale, fitted.state.scale),
            ):
                if kind in kinds:
                    mine[row] = theirs[row]
        chosen = sorted(fitted.choice.settings)
        settings[chosen] = fitted.state.settings[chosen]
        return state.with_(move=move, turn=turn, scale=scale, settings=settings)

    # -- changing -------------------------------------------------------------------------

    def say(self, source: str, target: str | None) -> None:
        """A name stands for another, or with None for nothing."""
        self.said[source] = target
        self._compute()

    def unsay(self, source: str) -> None:
        """Forget what was said about a name; it is looked for again."""
        self.said.pop(source, None)
        self._compute()

    def confirm(self, source: str, yes: bool) -> None:
        """Answer a proposal."""
        row = next(r for r in self.rows if r.source == source)
        self.say(source, row.target if yes else None)

    def confirm_roles(self) -> None:
        """Yes to everything that was proposed because it has the same humanoid role."""
        for row in self.rows:
            if row.landing is Landing.ASK and row.found is Found.ROLE:
                self.said[row.source] = row.target
        self._compute()

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
        self.rules = rules
        self._compute()

    def set_options(self, options: FitOptions) -> None:
        self.options = options
        self._compute()

    def set_bounds(self, *, limits: bool, lifted: bool) -> None:
        """Whether limits stop turns, and whether locks are taken off for this once."""
        self.limits, self.lifted = limits, lifted
        self._compute()

    def saved_as(self) -> NameMap:
        """Everything that was said, for the library."""
        return NameMap(self.card.character, self.actor.rig.name, self.rules, dict(self.said))

    def was_saved(self) -> None:
        self._saved = dict(self.said), self.rules
        self.changed.emit()

    @property
    def taken_names(self) -> frozenset[str]:
        """Names of the card of which anything goes on."""
        controls, settings = self._taken()
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
        try:
            return self.rules.hits(self.card.pose.controls)
        except FoxHandError:
            return [0] * len(self.rules.items)

    # -- inside ---------------------------------------------------------------------------

    def _compute(self) -> None:
        self.problem = None
        try:
            self._matches, self._settings = self._matched(self.rules)
        except FoxHandError as error:  # a pattern that is still being typed
            self.problem = error
            self._matches, self._settings = self._matched(Rules())
        source = None
        if self.source is not None:
            source = self.source, state_of(self.source, self.card.pose)
        controls, settings = self._taken()
        self.fitted = fit(self.card.pose, self.actor.rig, controls, settings, self.options, source)
        self.rows = tuple(self._rows())
        self.changed.emit()

    def _matched(self, rules: Rules) -> tuple[dict[str, Match], dict[str, Match]]:
        pose, rig = self.card.pose, self.actor.rig
        controls = match_names(
            list(pose.controls),
            [c.name for c in rig.controls],
            saved=self.said,
            rules=rules,
            roles=roles_of(pose),
            target_roles={c.name: c.role for c in rig.controls if c.role},
        )
        names = list(dict.fromkeys(s for h in pose.controls.values() for s in h.settings))
        settings = match_names(names, [s.name for s in rig.settings], saved=self.said, rules=rules)
        return {m.source: m for m in controls}, {m.source: m for m in settings}

    def _taken(self) -> tuple[dict[str, str], dict[str, str]]:
        return (
            {m.source: m.target for m in self._matches.values() if m.sure and m.target},
            {m.source: m.target for m in self._settings.values() if m.sure and m.target},
        )

    def _rows(self) -> list[FitRow]:
        rig, stopped = self.actor.rig, self._stopped()
        found = []
        for name, held in self.card.pose.controls.items():
            match = self._matches[name]
            lost = [s for s in held.settings if not self._settings[s].sure]
            landing, detail = self._landing(match, stopped, bool(held.settings) and not lost)
            if lost and landing in (Landing.LANDS, Landing.CORRECTED):
                detail = ", ".join(
                    [*([detail] if detail else []), f"without {', '.join(lost[:2])}"]
                )
            row = rig.control_row.get(match.target or "")
            control = rig.controls[row] if row is not None else None
            region = control.region if control is not None else region_from_name(name)
            side = control.side if control is not None else side_from_name(name)
            found.append(
                FitRow(
                    name,
                    match.target,
                    landing,
                    detail,
                    match.found,
                    region or Region.TORSO,
                    side or Side.CENTRE,
                )
            )
        return found

    def _landing(
        self, match: Match, stopped: Mapping[str, tuple[Landing, str]], settings_land: bool
    ) -> tuple[Landing, str]:
        if not match.sure:
            if match.target is not None:
                return Landing.ASK, match.found.value
            if settings_land and match.found is not Found.MAP:
                return Landing.LANDS, "its settings"
            why = "left out by hand" if match.found is Found.MAP else ""
            return Landing.MISSING, why or f"nothing like it on {self.actor.rig.name}"
        assert match.target is not None
        if match.target in stopped:
            return stopped[match.target]
        landed = self.fitted.landed.get(match.source, Landed(match.source, match.target, ""))
        if landed.corrected:
            return Landing.CORRECTED, landed.corrected
        return Landing.LANDS, "as it is"

    def _stopped(self) -> dict[str, tuple[Landing, str]]:
        """Controls that locks or limits keep from where the pose wants them."""
        if not self.limits:
            return {}
        rig, found = self.actor.rig, dict[str, tuple[Landing, str]]()
        bare, worn = self._wanted(self.fitted), self.worn()
        locked = self.actor.locked_rows() if not self.lifted else frozenset[int]()
        differs = worn.differs_from(bare, rig.settings_of)
        for row in np.flatnonzero(differs).tolist():
            gap = float(np.degrees(angle_between(worn.turn[row], bare.turn[row])))
            name = rig.controls[row].name
            if row in locked:
                found[name] = Landing.LOCKED, "locked on this character"
            else:
                found[name] = Landing.LIMIT, f"{gap:.0f}° less than the card wants"
        return found


def _change(source: str, target: str) -> tuple[str, str]:
    """What a match does to a name, without what the two have in common at their ends."""
    start = 0
    low_s, low_t = source.lower(), target.lower()
    while start < min(len(low_s), len(low_t)) and low_s[start] == low_t[start]:
        start += 1
    return low_s[start:], low_t[start:]
