"""A performance from a file with motion, laid on a character."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np

from fox_hand.base.animation_facts import AnimationFacts
from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.motion_wish import AS_IT_IS, MotionWish
from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.animation.performance import FileKeys, Performance
from fox_hand.core.matching.name_match import Denied, MatchSource, roles_on
from fox_hand.core.maths.rotations import Array, angle_between
from fox_hand.core.model.controls import ControlKind
from fox_hand.core.model.state import State
from fox_hand.core.retarget.rest_alignment import still
from fox_hand.core.retarget.transfer import FollowOptions, Transferred, follow
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.motions import READ, animation_facts, read_performance
from fox_hand.session.animating.face_motion import FaceMotion, face_motion, moving_settings
from fox_hand.session.figures.rig_files import UNITS, unit_word

SUFFIXES = READ
SPOKEN = 6  # names in a sentence
MOVES = 1.0  # degrees: what turns less is no loss
Told = Callable[[str], Mapping[str, str | None]]


@dataclass(frozen=True, eq=False)
class Performed:
    """The frames of a file as a character plays them.

    Args:
        states: a batch ``(F, C, ...)``.
        rate: frames a second.
        lost: a sentence about what stays out, if anything does.
        changed: a sentence about what was changed on the way, if anything was.
        loose: the same frames without feet that hold the ground; None where none do.
        keys: where the file's keys stand, by channel of the character.
    """

    states: State
    rate: float
    lost: tuple[str, ...] = ()
    changed: tuple[str, ...] = ()
    loose: State | None = None
    keys: Mapping[ChannelId, FileKeys] = field(default_factory=dict)


def animations_in(path: Path) -> list[AnimationFacts]:
    """The animations in a file, of which one is brought in at a time.

    Raises:
        FoxHandError: if it cannot be read.
    """
    return animation_facts(path)


def performed(
    path: Path, rig: Rig, wish: MotionWish = AS_IT_IS, names: Told | None = None
) -> Performed:
    """The frames of a motion file as the character would play them.

    Args:
        path: the file.
        rig: the character.
        wish: how it is to be read.
        names: by what the file's figure is called, names of its joints with those of the
            character, where they were told.

    Raises:
        FoxHandError: for files that cannot be read, or of which nothing fits.
    """
    found = read_performance(path, wish.rate, wish.animation, wish.metres_per_unit)
    told = names(found.rig.name) if names is not None else None
    options = options_for(path)
    made = followed_on(found, rig, told, options)
    loose = None
    if made.held is not None and made.held.feet:
        loose = followed_on(found, rig, told, replace(options, feet=False)).state
    lost, changed = lost_words(found, rig, made), (*unit_words(found), *held_words(made))
    return Performed(made.state, found.rate, lost, changed, loose, keys_on(found, rig, made))


def keys_on(performance: Performance, rig: Rig, made: Transferred) -> dict[ChannelId, FileKeys]:
    """Where keys of a file stand on the character that follows it. Whether they say all there is
    to say of a channel is for who makes keys of it."""
    source, found = performance.rig, dict[ChannelId, FileKeys]()
    for row, theirs in made.rows.items():
        for kind in (ChannelKind.MOVE, ChannelKind.TURN, ChannelKind.SCALE):
            filed = performance.keys.get(ChannelId(kind, source.controls[theirs].name))
            if filed is not None:
                found[ChannelId(kind, rig.controls[row].name)] = filed
    for name in made.faces & set(rig.setting_row):
        filed = performance.keys.get(ChannelId(ChannelKind.SETTING, name))
        if filed is not None:
            found[ChannelId(ChannelKind.SETTING, name)] = filed
    return found


def options_for(path: Path) -> FollowOptions:
    """How a file is carried over unless somebody says otherwise: the world of a recording is the
    room it was made in, that of a scene is the scene."""
    return FollowOptions(starts=path.suffix.lower() == ".bvh")


def lost_words(performance: Performance, rig: Rig, made: Transferred) -> tuple[str, ...]:
    """What of a performance moves and stays out of a character."""
    lost = _lost(performance, set(made.rows.values()))
    lost += [name for name in moving_settings(performance) if name not in made.faces]
    more = tr(" and {count} more", count=len(lost) - SPOKEN) if len(lost) > SPOKEN else ""
    return (
        (
            tr(
                "Not on {name}: {names}{more}.",
                name=rig.name,
                names=", ".join(lost[:SPOKEN]),
                more=more,
            ),
        )
        if lost
        else ()
    )


def unit_words(performance: Performance) -> tuple[str, ...]:
    """Which unit was taken, where nobody has said it."""
    if performance.unit is None or not performance.guessed:
        return ()
    name = next(unit_word(name) for name, size in UNITS.items() if size == performance.unit)
    tall = tr("which makes it {height:.2f} m tall", height=performance.rig.height)
    return (
        tr(
            "{name} does not say its unit; {name_2} were taken, {tall}.",
            name=performance.name,
            name_2=name,
            tall=tall,
        ),
    )


def held_words(made: Transferred) -> tuple[str, ...]:
    """What holding the ground has changed."""
    found = []
    if made.held is not None and made.held.feet:
        slid = max((float(s.max(initial=0.0)) for s in made.held.slid.values()), default=0.0)
        sank = float(made.held.sank.max(initial=0.0))
        lower = float(made.held.hips.max(initial=0.0))
        changed = [
            tr("{what} {far:.1f} cm", what=what, far=far * 100)
            for what, far in ((tr("slid"), slid), (tr("sank"), sank))
            if far > 0.002
        ]
        if changed:
            down = (
                tr(", and the hips come down by up to {lower:.1f} cm", lower=lower * 100)
                if lower > 0.002
                else ""
            )
            found.append(
                tr(
                    "Feet that {names} hold the ground{down}.",
                    names=tr(" and ").join(changed),
                    down=down,
                )
            )
    return tuple(found)


def _lost(performance: Performance, taken: set[int]) -> list[str]:
    """Joints of a file that move, have no partner, and carry none that has one."""
    source = performance.rig
    turn = performance.states.turn
    far = np.degrees(angle_between(turn, source.rest.turn[None]).max(0, initial=0.0))
    found = []
    for row, control in enumerate(source.controls):
        moves = far[row] > MOVES and control.kind is ControlKind.JOINT and not control.helper
        if moves and not carried_by(source, row, taken):
            found.append(control.name)
    return found


def carried_by(source: Rig, row: int, taken: set[int]) -> bool:
    """Whether a joint, or one that hangs on it and so holds what it does, has a partner."""
    return bool(taken & set(source.below(row)))


def laid_on(
    performance: Performance,
    rig: Rig,
    names: Mapping[str, str | None] | None = None,
    options: FollowOptions | None = None,
) -> State:
    """A performance on a character, see :func:`followed_on`."""
    return followed_on(performance, rig, names, options).state


def followed_on(
    performance: Performance,
    rig: Rig,
    names: Mapping[str, str | None] | None = None,
    options: FollowOptions | None = None,
) -> Transferred:
    """A performance on a character.

    Joints are matched by what was told, by name unless it means another part of the body there,
    else by their part of the body. A file of the
    same skeleton is taken as it is, shapes and all; else the character follows it
    (:mod:`fox_hand.core.retarget.transfer`), so joint axes, rest stances, facing and builds may
    differ.

    Raises:
        FoxHandError: ``performance.nothing_fits``.
    """
    source = performance.rig
    pairs = pairs_of(source, rig, names or {})
    same = {m: t for m, t in pairs.items() if _same_rest(source, t, rig, m)}
    alike = len(same) == len(pairs)
    faces = face_motion(performance, rig, names, same=alike and bool(pairs))
    if not pairs and not faces.given:
        raise FoxHandError(
            "performance.nothing_fits",
            tr(
                "Nothing of {name} has its like on {name_2}.",
                name=performance.name,
                name_2=rig.name,
            ),
            tr("Nothing was changed."),
            tr("Choose a performance of this character, or let another one act."),
        )
    if alike:
        found = Transferred(_as_it_is(performance, rig, pairs), pairs, 1.0, still(rig), None, None)
    else:
        found = follow(performance, rig, pairs, options)
    settings = faces.values(performance, found.state.settings)
    return replace(found, state=found.state.with_(settings=settings), faces=_landed(faces))


def _landed(faces: FaceMotion) -> frozenset[str]:
    return frozenset(m.source for m in faces.matches if m.targets)


def _as_it_is(performance: Performance, rig: Rig, pairs: Mapping[int, int]) -> State:
    """The same skeleton: values go over bit by bit."""
    states, frames = performance.states, len(performance)
    move, turn, scale, settings, euler = (_many(v, frames) for v in rig.rest.arrays())
    for mine, theirs in pairs.items():
        turn[:, mine] = states.turn[:, theirs]
        move[:, mine] = states.move[:, theirs]
        scale[:, mine] = states.scale[:, theirs]
    return State(move, turn, scale, settings, euler)


def _same_rest(source: Rig, theirs: int, rig: Rig, mine: int) -> bool:
    """Whether two joints rest alike, above and all, so that values go over as they are."""
    one, other = source.controls[theirs].node, rig.controls[mine].node
    near = np.abs(source.skeleton.rest_world[one] - rig.skeleton.rest_world[other]).max()
    return bool(near < 1e-4)


def frame_of(batch: State, frame: int) -> State:
    """One frame of a batch."""
    return State(*(values[frame].copy() for values in batch.arrays()))


def pairs_of(source: Rig, rig: Rig, names: Mapping[str, str | None]) -> dict[int, int]:
    """By row of the character the source's row; each of the source's is given once.

    Args:
        source: the figure of a file.
        rig: the character.
        names: what was told: by name there the name here, or None where it has nothing.
    """
    out = {theirs for theirs, mine in names.items() if mine is None}
    by_role = {
        c.role: r
        for r, c in enumerate(source.controls)
        if c.role and c.moves_node and c.name not in out
    }
    told = {mine: theirs for theirs, mine in names.items() if mine is not None}
    spoken = {source.control_row[t] for t in told.values() if t in source.control_row}
    joints = [c.name for c in source.controls if c.kind is ControlKind.JOINT and not c.helper]
    mine = list(rig.control_row)
    denied = Denied(roles_on(source, joints), roles_on(rig, mine), mine)
    found: dict[int, int] = {}
    for row, control in enumerate(rig.controls):
        if control.kind is not ControlKind.JOINT or control.helper:
            continue  # helpers follow by themselves
        name = told.get(control.name)
        theirs = source.control_row.get(control.name if name is None else name)
        if name is None and (theirs in spoken or control.name in out):
            theirs = None  # it was said to be another's, or nobody's
        if name is None and denied(MatchSource.EXACT, control.name, control.name):
            theirs = None  # the same name is another part of the body there
        if theirs is None and control.role and name is None:
            theirs = by_role.get(control.role)
            theirs = None if theirs in spoken else theirs
        if theirs is None or source.controls[theirs].kind is not ControlKind.JOINT:
            continue
        if theirs not in found.values():
            found[row] = theirs
    return found


def _many(values: Array, frames: int) -> Array:
    return np.broadcast_to(values, (frames, *values.shape)).copy()
