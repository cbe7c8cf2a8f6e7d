"""What a card comes to on a character: computed from what is asked, in a job if need be."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.matching.name_match import Match, MatchSource, Rules, match_by_kind
from fox_hand.core.matching.setting_match import SettingMatch, match_settings
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.model.controls import Region, Side
from fox_hand.core.model.state import State
from fox_hand.core.naming.side_region import region_from_name, side_from_name
from fox_hand.core.pose.pose import Held, rests_otherwise
from fox_hand.core.retarget.pose_changes import roles_of
from fox_hand.core.retarget.retarget import FitOptions, Fitted, Landed, Landing, fit
from fox_hand.core.rig.locks_limits import Lock, within
from fox_hand.core.rig.rig import Rig
from fox_hand.library.format.card import Card
from fox_hand.session.figures.pose_conversion import state_of

SPOKEN = 2  # settings of a control that are named where it lands without them
PLAIN = FitOptions(stance=False, correct=False, stretch=False)


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
    found: MatchSource
    region: Region
    side: Side


def _free_controls(card: Card) -> set[str]:
    """Controls of a card that are goals or poles: as it says itself, or because they are moved
    and never turned, as no joint is."""
    said = {name for names in card.carried.pulled.values() for name in names}
    held = card.pose.controls.items()
    return said | {n for n, h in held if h.move is not None and h.turn is None}


def foreign(card: Card, rig: Rig) -> bool:
    """Whether a card was taken from another rig than this one, or from one of the same names that
    rests otherwise or has other proportions. Cards that do not say how their rig rests (those of
    earlier versions) are asked control by control."""
    if not card.fingerprint or card.fingerprint == rig.fingerprint:
        return False
    if "." in card.fingerprint or card.fingerprint != rig.fingerprint.partition(".")[0]:
        return True
    return rests_otherwise(card.pose, rig)


@dataclass(frozen=True)
class Told:
    """What somebody says about a fit.

    Args:
        names: by the card's name the character's, or None where it has nothing.
        rules, options: see there.
        limits: whether limits and locks stop anything.
        lifted: whether locks do not, for this once.
    """

    names: Mapping[str, str | None] = field(default_factory=dict)
    rules: Rules = field(default_factory=Rules)
    options: FitOptions = field(default_factory=FitOptions)
    limits: bool = True
    lifted: bool = False


@dataclass(frozen=True, eq=False)
class Asked:
    """What a fit is computed from.

    Args:
        card, rig: what goes on which character.
        state, locks: how the character stands now, and what is locked.
        source: the card's own rig, if it is at hand.
        told: what was said.
    """

    card: Card
    rig: Rig
    state: State
    locks: frozenset[Lock]
    source: Rig | None
    told: Told


class FitResult:
    """Everything the Fit screen shows.

    Args:
        asked: what it is computed from.
    """

    def __init__(self, asked: Asked) -> None:
        self._asked = asked
        self.problem: FoxHandError | None = None
        try:
            self._matches, self._settings = self._matched(asked.told.rules)
        except FoxHandError as error:  # a pattern that is still being typed
            self.problem = error
            self._matches, self._settings = self._matched(Rules())
        source = None
        if asked.source is not None:
            source = asked.source, state_of(asked.source, asked.card.pose)
        self.taken = self._taken()
        pose, rig = asked.card.pose, asked.rig
        self.fitted = fit(pose, rig, *self.taken, asked.told.options, source, asked.card.carried)
        self._bare = self._wanted(self.fitted)
        self.worn = self._bounded(self._bare)
        self.rows = tuple(self._rows())

    @cached_property
    def names_only(self) -> State:
        """How the character would stand with the names exchanged and nothing else."""
        found = fit(self._asked.card.pose, self._asked.rig, *self.taken, PLAIN)
        return self._bounded(self._wanted(found))

    def _bounded(self, wanted: State) -> State:
        asked = self._asked
        if not asked.told.limits:
            return wanted
        locks: frozenset[Lock] = frozenset() if asked.told.lifted else asked.locks
        return within(asked.rig, locks, asked.state, wanted)

    def _wanted(self, fitted: Fitted) -> State:
        """The character as it stands, wearing a fitted pose."""
        state = self._asked.state
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

    def _matched(self, rules: Rules) -> tuple[dict[str, Match], dict[str, SettingMatch]]:
        pose, rig = self._asked.card.pose, self._asked.rig
        controls = match_by_kind(
            list(pose.controls),
            rig,
            self._asked.told.names,
            rules,
            roles_of(pose),
            free=_free_controls(self._asked.card),
        )
        names = list(dict.fromkeys(s for h in pose.controls.values() for s in h.settings))
        settings = match_settings(names, rig, self._asked.told.names, rules)
        return {m.source: m for m in controls}, {m.source: m for m in settings}

    def _taken(self) -> tuple[dict[str, str], dict[str, tuple[str, ...]]]:
        return (
            {m.source: m.target for m in self._matches.values() if m.sure and m.target},
            {m.source: m.targets for m in self._settings.values() if m.targets},
        )

    def _rows(self) -> list[FitRow]:
        rig, stopped = self._asked.rig, self._stopped()
        found = []
        for name, held in self._asked.card.pose.controls.items():
            match = self._matches[name]
            lost = [s for s in held.settings if not self._settings[s].targets]
            landing, detail = self._landing(match, stopped, held, len(held.settings) > len(lost))
            if lost and landing in (Landing.LANDS, Landing.CORRECTED):
                more = (
                    tr(" and {count} more", count=len(lost) - SPOKEN) if len(lost) > SPOKEN else ""
                )
                without = tr("without {names}{more}", names=", ".join(lost[:SPOKEN]), more=more)
                detail = ", ".join([*([detail] if detail else []), without])
            target = match.target if match.sure or landing is Landing.ASK else None
            row = rig.control_row.get(target or "")
            control = rig.controls[row] if row is not None else None
            region = control.region if control is not None else region_from_name(name)
            side = control.side if control is not None else side_from_name(name)
            found.append(
                FitRow(
                    name,
                    target,
                    landing,
                    detail,
                    match.found,
                    region or Region.TORSO,
                    side or Side.CENTRE,
                )
            )
        return found

    def _landing(
        self,
        match: Match,
        stopped: Mapping[str, tuple[Landing, str]],
        held: Held,
        settings_land: bool,
    ) -> tuple[Landing, str]:
        if not match.sure and match.source in self.fitted.by_joints:
            return Landing.CORRECTED, tr("by the joints of the limb")
        if not match.sure:
            settings_land = settings_land and match.found is not MatchSource.MAP
            moves = held.move or held.turn or held.scale
            if match.target is not None and (moves or not settings_land):
                return Landing.ASK, match.found.word
            if settings_land:
                return Landing.LANDS, tr("its settings")
            why = tr("left out by hand") if match.found is MatchSource.MAP else ""
            return Landing.MISSING, why or tr(
                "nothing like it on {name}", name=self._asked.rig.name
            )
        assert match.target is not None
        if match.target in stopped:
            return stopped[match.target]
        landed = self.fitted.landed.get(match.source, Landed(match.source, match.target, ""))
        if landed.corrected:
            return Landing.CORRECTED, landed.corrected
        return Landing.LANDS, tr("as it is")

    def _stopped(self) -> dict[str, tuple[Landing, str]]:
        """Controls that locks or limits keep from where the pose wants them."""
        asked, found = self._asked, dict[str, tuple[Landing, str]]()
        if not asked.told.limits:
            return found
        rig, bare, worn = asked.rig, self._bare, self.worn
        row_of = rig.control_row
        locked = {row_of[x.control] for x in asked.locks if x.control in row_of}
        locked = set() if asked.told.lifted else locked
        differs = worn.differs_from(bare, rig.settings_of)
        for row in np.flatnonzero(differs).tolist():
            gap = float(np.degrees(angle_between(worn.turn[row], bare.turn[row])))
            name = rig.controls[row].name
            if row in locked:
                found[name] = Landing.LOCKED, tr("locked on this character")
            else:
                found[name] = Landing.LIMIT, tr("{gap:.0f}° less than the card wants", gap=gap)
        return found
