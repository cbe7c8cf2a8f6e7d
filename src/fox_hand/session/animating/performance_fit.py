"""What a performance comes to on a character: who follows whom, and how the feet stand."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.animation.performance import Performance
from fox_hand.core.matching.name_match import Match, MatchSource, match_by_kind
from fox_hand.core.maths.rotations import IDENTITY, Array, angle_between
from fox_hand.core.model.controls import Control, ControlKind, Region, Side
from fox_hand.core.naming.known_roles import KnownRoles
from fox_hand.core.naming.side_region import region_from_name, side_from_name
from fox_hand.core.retarget.retarget import Landing
from fox_hand.core.retarget.stand_edits import GroundFigures, ground_figures
from fox_hand.core.retarget.standing import standing
from fox_hand.core.retarget.transfer import FollowOptions, Transferred
from fox_hand.core.rig.rig import Rig
from fox_hand.session.animating.face_motion import face_motion, moving_settings
from fox_hand.session.animating.motion_import import MOVES, carried_by, followed_on, pairs_of
from fox_hand.session.animating.stick_figure import StickFigure, stick_of
from fox_hand.session.applying.fit_result import FitRow

FACE = Region.HEAD
TURNED = 1.0  # degrees: a stance that is nearer counts as the same
Span = tuple[int, int]  # first frame, and the last


@dataclass(frozen=True)
class PerformanceTold:
    """What somebody says about a performance on a character.

    Args:
        names: by the file's name the character's, or None where it has nothing.
        options: how it is carried over, and when feet stand.
        span: which frames go in; None for all.
        unit: metres of one unit of a file that does not say it; None for the likely one.
    """

    names: Mapping[str, str | None] = field(default_factory=dict)
    options: FollowOptions = field(default_factory=FollowOptions)
    span: Span | None = None
    unit: float | None = None


class PerformanceFit:
    """Everything the screen shows; it takes its time and is for jobs.

    Args:
        performance: as it is in its file, on a rig that rests standing.
        rig: the character.
        told: what was said.
    """

    def __init__(self, performance: Performance, rig: Rig, told: PerformanceTold) -> None:
        performance = performance if told.unit is None else performance.in_unit(told.unit)
        self.performance, self.rig, self.told = standing(performance), rig, told
        source = performance.rig
        self.pairs = pairs_of(source, rig, told.names)
        self._offers = self._offered()
        self._faces, self._moving = (
            face_motion(performance, rig, told.names),
            moving_settings(performance),
        )
        self.made = self._followed()
        self.turned = _turned(performance)
        self.rows = tuple(self._rows())
        self.ground = self._ground(self.made)
        self.loose = self._loose()
        self.before = self._ground(self.loose)
        self.stick = self._stick()

    def _followed(self) -> Transferred | None:
        try:
            return followed_on(self.performance, self.rig, self.told.names, self.told.options)
        except FoxHandError:
            return None  # nothing fits yet: names can still be said

    def _ground(self, made: Transferred | None) -> GroundFigures | None:
        if made is None or made.stands is None:
            return None
        return ground_figures(self.rig, made.state, made.stands, made.held)

    def _loose(self) -> Transferred | None:
        """The same with feet that hold nothing."""
        made, options = self.made, self.told.options
        if made is None or made.held is None or not made.held.feet:
            return made
        loose = replace(options, feet=False)
        return followed_on(self.performance, self.rig, self.told.names, loose)

    def _stick(self) -> StickFigure | None:
        if self.made is None:
            return None
        ahead = self.told.options.ahead
        return stick_of(self.performance, self.rig, self.made, ahead=ahead)

    def _offered(self) -> dict[str, Match]:
        """Joints without a partner that are called nearly as one of the character's is."""
        source, taken = self.performance.rig, set(self.pairs.values())
        left = [
            c.name
            for row, c in enumerate(source.controls)
            if row not in taken and c.kind is ControlKind.JOINT and not c.helper
        ]
        used = {self.rig.controls[row].name for row in self.pairs}
        joints = {c.name for c in self.rig.controls if c.kind is ControlKind.JOINT and not c.helper}
        found = match_by_kind(left, self.rig, dict(self.told.names), None, KnownRoles())
        return {m.source: m for m in found if m.target in joints - used and m.target is not None}

    # -- what becomes of every joint ------------------------------------------------------

    def counts(self) -> dict[Landing, int]:
        """How many joints go which way."""
        found = dict.fromkeys(Landing, 0)
        for row in self.rows:
            found[row.landing] += 1
        return found

    def _rows(self) -> list[FitRow]:
        source = self.performance.rig
        by_source = {theirs: mine for mine, theirs in self.pairs.items()}
        found = []
        for row, control in enumerate(source.controls):
            if control.kind is not ControlKind.JOINT or control.helper:
                continue
            mine = by_source.get(row)
            if mine is not None:
                found.append(self._landed(row, control, mine))
            else:
                found.append(self._left(row, control))
        return found + [self._setting(name, far) for name, far in self._moving.items()]

    def _setting(self, name: str, far: float) -> FitRow:
        """A setting that moves; those that stand still are not told of."""
        match = next(m for m in self._faces.matches if m.source == name)
        target = match.targets[0] if match.targets else None
        row = self.rig.settings[self.rig.setting_row[target]].control if target else None
        region = self.rig.controls[row].region if row is not None else region_from_name(name)
        side = side_from_name(name) or Side.CENTRE
        if target is None:
            said = match.found is MatchSource.MAP
            detail = tr("left out by hand") if said else tr("by {far:.2f}, stays out", far=far)
            return FitRow(name, None, Landing.MISSING, detail, match.found, region or FACE, side)
        both = len(match.targets) > 1
        landing = Landing.CORRECTED if both else Landing.LANDS
        detail = tr("and {targets}", targets=match.targets[1]) if both else tr("as it is")
        return FitRow(name, target, landing, detail, match.found, region or FACE, side)

    def _landed(self, row: int, control: Control, mine: int) -> FitRow:
        target = self.rig.controls[mine]
        said = self.told.names.get(control.name) == target.name
        same = control.name == target.name
        match = MatchSource.MAP if said else MatchSource.EXACT if same else MatchSource.ROLE
        detail = self._how(row, mine)
        landing = Landing.CORRECTED if detail else Landing.LANDS
        if match is MatchSource.ROLE and min(control.role_sure, target.role_sure) < 1.0:
            sure = min(control.role_sure, target.role_sure)
            detail = tr("by shape, {sure:.0f} %", sure=sure * 100)
        found = detail or tr("as it is")
        return FitRow(control.name, target.name, landing, found, match, target.region, target.side)

    def _how(self, row: int, mine: int) -> str:
        made, target = self.made, self.rig.controls[mine]
        if made is None:
            return ""
        role, options = target.role or "", self.told.options
        side = next((s for s in ("left", "right") if role == f"{s}Foot"), None)
        if side is not None and options.feet and made.held is not None:
            return tr("holds the ground")
        if role == "hips" and abs(made.legs - 1.0) > 0.005:
            return tr("legs {legs:.2f}", legs=made.legs)
        away = float(np.degrees(angle_between(made.stance.turns[target.node], IDENTITY)))
        if away > TURNED:
            return tr("stance, {away:.0f}°", away=away)
        source = self.performance.rig
        one = source.skeleton.rest_turns[source.controls[row].node]
        other = self.rig.skeleton.rest_turns[target.node]
        return tr("turned by rest") if float(np.degrees(angle_between(one, other))) > TURNED else ""

    def _left(self, row: int, control: Control) -> FitRow:
        """A joint without a partner."""
        far, target = float(self.turned[row]), None
        said_no = control.name in self.told.names and self.told.names[control.name] is None
        region = region_from_name(control.name) or control.region or Region.TORSO
        side = side_from_name(control.name) or control.side or Side.CENTRE
        heir = carried_by(self.performance.rig, row, set(self.pairs.values()))
        offer = self._offers.get(control.name)
        if said_no:
            landing, found, detail = Landing.MISSING, MatchSource.MAP, tr("left out by hand")
        elif far <= MOVES:
            landing, found, detail = Landing.LANDS, MatchSource.NONE, tr("never turns")
        elif offer is not None and not heir:
            landing, found, target = Landing.ASK, offer.found, offer.target
            detail = offer.found.word
        elif heir:
            landing, found, detail = (
                Landing.CORRECTED,
                MatchSource.NONE,
                tr("goes into the next one"),
            )
        else:
            landing, found, detail = (
                Landing.MISSING,
                MatchSource.NONE,
                tr("{far:.0f}°, stays out", far=far),
            )
        return FitRow(control.name, target, landing, detail, found, region, side)


def _turned(performance: Performance) -> Array:
    """How far each control turns away from rest at most, degrees ``(C,)``."""
    rest = performance.rig.rest.turn[None]
    return np.asarray(np.degrees(angle_between(performance.states.turn, rest).max(0, initial=0.0)))
