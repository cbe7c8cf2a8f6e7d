"""Which settings of another rig do what the settings of a pose do.

Names come first, as they do for controls. What is left is matched by what it does to the face; a
setting that does it on both sides stands for two that do it on one each, and two for one.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from fox_hand.core.matching.name_match import MatchSource, Rules, match_names
from fox_hand.core.model.controls import Side
from fox_hand.core.naming.face_roles import FaceRole, face_roles
from fox_hand.core.rig.rig import Rig

SIDES = (Side.LEFT, Side.RIGHT)


@dataclass(frozen=True)
class SettingMatch:
    """What a setting stands for.

    Args:
        source: its name in the pose.
        targets: names on the rig that take its value; none where nothing does that.
        found: how.
    """

    source: str
    targets: tuple[str, ...]
    found: MatchSource


def match_settings(
    sources: Sequence[str],
    rig: Rig,
    saved: Mapping[str, str | None] | None = None,
    rules: Rules | None = None,
) -> list[SettingMatch]:
    """A match for every setting of a pose; only what is sure.

    Args:
        sources: names of settings.
        rig: where they are looked for.
        saved, rules: see :func:`fox_hand.core.matching.name_match.match_names`.
    """
    # those that only follow others come last: what is set there is taken away again
    targets = [s.name for s in sorted(rig.settings, key=lambda s: s.helper)]
    named = match_names(sources, targets, saved=saved, rules=rules)
    taken = {m.target for m in named if m.sure}
    mine, theirs = face_roles(sources), _by_role(n for n in targets if n not in taken)
    known = set(mine.values())
    found = []
    for match in named:
        role = mine.get(match.source)
        if match.sure and match.target is not None:
            found.append(SettingMatch(match.source, (match.target,), match.found))
        elif match.found is MatchSource.MAP or role is None:
            found.append(SettingMatch(match.source, (), match.found))
        else:
            doing = _doing(role, theirs, known)
            how = MatchSource.FACE if doing else MatchSource.NONE
            found.append(SettingMatch(match.source, doing, how))
    return found


def _by_role(names: Iterable[str]) -> dict[FaceRole, str]:
    """The first name of every role."""
    found: dict[FaceRole, str] = {}
    for name, role in face_roles(names).items():
        found.setdefault(role, name)
    return found


def _doing(role: FaceRole, theirs: Mapping[FaceRole, str], known: set[FaceRole]) -> tuple[str, ...]:
    """Settings that do the same: on the same side, on either for one that does it on both, or on
    both for one of a side, unless the pose has another one for both."""
    if role in theirs:
        return (theirs[role],)
    if role.side is Side.CENTRE:
        halves = [replace(role, side=side) for side in SIDES]
        return tuple(theirs[h] for h in halves if h in theirs and h not in known)
    whole = replace(role, side=Side.CENTRE)
    return (theirs[whole],) if whole in theirs and whole not in known else ()
