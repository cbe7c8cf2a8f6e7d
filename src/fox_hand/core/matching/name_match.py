"""Which control of another rig a name stands for.

Tried in this order: what was said before (a saved map), the same name, the rules for exchanging
parts of names, another prefix, the same words in another order or with the side written another
way, the same humanoid role. Where both roles are sure and differ, names are not believed: a
shoulder is the collar on one rig and the upper arm on another. A role that only a shape says, and
a like spelling, are proposed and never taken unasked.
"""

from __future__ import annotations

import difflib
import re
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.model.controls import ControlKind, Side
from fox_hand.core.naming.known_roles import KnownRoles
from fox_hand.core.naming.side_region import side_from_name, side_words, tokens
from fox_hand.core.rig.rig import Rig

FINGERS = {"thumb", "index", "middle", "ring", "little", "pinky", "pinkie"}
ALIKE = 0.6  # share of a spelling that has to agree to be worth asking about


class MatchSource(StrEnum):
    """How a match was found."""

    MAP = "said before"
    EXACT = "same name"
    RULE = "by the rules"
    PREFIX = "other prefix"
    WORDS = "same words"
    FACE = "same part of the face"
    ROLE = "same role"
    LIKELY = "perhaps the same role"
    SPELLING = "spelled alike"
    NONE = "not there"

    @property
    def word(self) -> str:
        """What people read."""
        return _MATCH_SOURCE_WORDS[self]


_MATCH_SOURCE_WORDS = {
    MatchSource.MAP: tr("said before"),
    MatchSource.EXACT: tr("same name"),
    MatchSource.RULE: tr("by the rules"),
    MatchSource.PREFIX: tr("other prefix"),
    MatchSource.WORDS: tr("same words"),
    MatchSource.FACE: tr("same part of the face"),
    MatchSource.ROLE: tr("same role"),
    MatchSource.LIKELY: tr("perhaps the same role"),
    MatchSource.SPELLING: tr("spelled alike"),
    MatchSource.NONE: tr("not there"),
}


BY_NAME = (MatchSource.EXACT, MatchSource.PREFIX, MatchSource.WORDS)


@dataclass(frozen=True)
class Rule:
    """Exchange a part of a name.

    Args:
        find, put: what is looked for and what takes its place.
        pattern: ``find`` is a regular expression, ``put`` may name its groups.
    """

    find: str
    put: str
    pattern: bool = False


@dataclass(frozen=True)
class Rules:
    """Rules in the order they are used; ``any_case`` looks past large and small letters."""

    items: tuple[Rule, ...] = ()
    any_case: bool = True

    def applied(self, name: str) -> str:
        """The name after all rules.

        Raises:
            FoxHandError: ``names.pattern`` if a regular expression cannot be understood.
        """
        for rule in self.items:
            name = self._one(rule, name)
        return name

    def hits(self, names: Iterable[str]) -> list[int]:
        """For each rule how many names it changes."""
        counts = [0] * len(self.items)
        for name in names:
            before = name
            for number, rule in enumerate(self.items):
                after = self._one(rule, before)
                counts[number] += after != before
                before = after
        return counts

    def _one(self, rule: Rule, name: str) -> str:
        if not rule.find:
            return name
        flags = re.IGNORECASE if self.any_case else 0
        try:
            if rule.pattern:
                return re.sub(rule.find, rule.put, name, flags=flags)
        except (re.error, IndexError) as error:
            raise FoxHandError(
                "names.pattern",
                tr("“{find}” is not a pattern: {error}.", find=rule.find, error=error),
                tr("Nothing was renamed."),
                tr("Mend it, or take the tick from pattern."),
            ) from error
        return re.sub(re.escape(rule.find), lambda _: rule.put, name, flags=flags)


@dataclass(frozen=True)
class Match:
    """What a name stands for.

    Args:
        source: the name in the pose.
        target: the name on the rig; None for nothing.
        found: how.
    """

    source: str
    target: str | None
    found: MatchSource

    @property
    def sure(self) -> bool:
        """Whether it counts without asking."""
        return self.target is not None and self.found not in (
            MatchSource.LIKELY,
            MatchSource.SPELLING,
        )


def match_names(
    sources: Sequence[str],
    targets: Sequence[str],
    *,
    saved: Mapping[str, str | None] | None = None,
    rules: Rules | None = None,
    roles: KnownRoles | None = None,
    target_roles: KnownRoles | None = None,
) -> list[Match]:
    """A match for every source name; each target is given once.

    Args:
        saved: what was said before; None for "nothing here".
        rules: for exchanging parts of names.
        roles, target_roles: humanoid roles of either.
    """
    saved, rules = saved or {}, rules or Rules()
    mine, theirs = roles or KnownRoles(), target_roles or KnownRoles()
    known, left = set(targets), dict.fromkeys(targets)
    found: dict[str, Match] = {}

    def take(source: str, target: str | None, how: MatchSource) -> None:
        found[source] = Match(source, target, how)
        if target is not None:
            left.pop(target, None)

    for source in sources:
        if source in saved and (saved[source] is None or saved[source] in known):
            take(source, saved[source], MatchSource.MAP)
    words = {name: _words(name) for name in (*sources, *targets)}
    ways: list[tuple[MatchSource, Mapping[str, str]]] = [
        (MatchSource.EXACT, {name: name for name in targets}),
        (MatchSource.RULE, _ruled(rules, sources, targets)),
        (MatchSource.PREFIX, _without_prefixes(sources, targets)),
        (MatchSource.WORDS, _joined(sources, targets, words, words)),
        (MatchSource.ROLE, _joined(sources, targets, mine.sure, theirs.sure, first=True)),
        (MatchSource.LIKELY, _joined(sources, targets, mine.all, theirs.all, first=True)),
    ]
    denied = Denied(mine, theirs, targets)
    for how, way in ways:
        for source in sources:
            target = way.get(source) if source not in found else None
            if target is not None and target in left and not denied(how, source, target):
                take(source, target, how)
    for source in sources:
        if source not in found:
            guess = _alike(source, left, words)
            take(source, guess, MatchSource.SPELLING if guess is not None else MatchSource.NONE)
    return [found[source] for source in sources]


class Denied:
    """Whether sure roles contradict what names say.

    Where every name that a pose speaks of is one of the rig's, both are built alike and names are
    believed: a joint more in the spine gives those of an older rig other roles.
    """

    def __init__(self, mine: KnownRoles, theirs: KnownRoles, targets: Sequence[str]) -> None:
        self._mine, self._theirs = mine.sure, theirs.sure
        self._alike = mine.names <= set(targets)

    def __call__(self, how: MatchSource, source: str, target: str) -> bool:
        if self._alike or how not in BY_NAME:
            return False
        mine, theirs = self._mine.get(source), self._theirs.get(target)
        return mine is not None and theirs is not None and mine != theirs


def roles_on(rig: Rig, names: Collection[str]) -> KnownRoles:
    """Roles of some of a rig's controls."""
    chosen = set(names)
    told = [c for c in rig.controls if c.role is not None and c.name in chosen]
    return KnownRoles(
        {c.name: c.role for c in told if c.role is not None and c.role_sure >= 1.0},
        {c.name: c.role for c in told if c.role is not None and c.role_sure < 1.0},
        frozenset(chosen),
    )


FREE = {"goal", "pole", "ik", "target", "aim", "look"}
FREE_KINDS = (ControlKind.GOAL, ControlKind.POLE, ControlKind.LOOK)


def match_by_kind(
    sources: Sequence[str],
    rig: Rig,
    saved: Mapping[str, str | None] | None,
    rules: Rules | None,
    roles: KnownRoles,
    free: Collection[str] = (),
) -> list[Match]:
    """A match for every source name on a rig: bones with bones, and goals, poles and targets with
    their like, whatever they are called. What was said before counts all the same.

    Args:
        sources: names of controls.
        rig: where they are looked for.
        saved, rules: see :func:`match_names`.
        roles: humanoid roles of the sources.
        free: sources that are known to be goals or poles.
    """
    kinds = {c.name: c.kind in FREE_KINDS for c in rig.controls}
    found: dict[str, Match] = {}

    def is_free(name: str) -> bool:
        if name in roles.all:  # a joint, though the rig may call a pole so
            return False
        return kinds.get(name, name in free or bool(FREE & set(tokens(name))))

    for wanted in (False, True):
        some = [name for name in sources if is_free(name) is wanted]
        targets = [name for name, loose in kinds.items() if loose is wanted]
        told = {n: t for n, t in (saved or {}).items() if n in some}
        targets += [t for t in told.values() if t in kinds and t not in targets]
        target_roles = roles_on(rig, targets)
        matches = match_names(
            some, targets, saved=told, rules=rules, roles=roles, target_roles=target_roles
        )
        found |= {m.source: m for m in matches}
    return [found[name] for name in sources]


def _ruled(rules: Rules, sources: Sequence[str], targets: Sequence[str]) -> dict[str, str]:
    """By source the target that the rules make of it."""
    if not rules.items:
        return {}

    def plain(name: str) -> str:
        return name.casefold() if rules.any_case else name

    known = {plain(target): target for target in targets}
    renamed = {source: rules.applied(source) for source in sources}
    return {s: known[plain(n)] for s, n in renamed.items() if n != s and plain(n) in known}


def _joined(
    sources: Sequence[str],
    targets: Sequence[str],
    mine: Mapping[str, object],
    theirs: Mapping[str, object],
    *,
    first: bool = False,
) -> dict[str, str]:
    """By source the target with the same key: the only one, or with ``first`` the first."""
    known: dict[object, list[str]] = {}
    for target in targets:
        if target in theirs:
            known.setdefault(theirs[target], []).append(target)
    found = {}
    for source in sources:
        same = known.get(mine[source], []) if source in mine else []
        if len(same) == 1 or (same and first):
            found[source] = same[0]
    return found


def _without_prefixes(sources: Sequence[str], targets: Sequence[str]) -> dict[str, str]:
    """By source the target that is the same once prefixes are taken off: all before a ``:``, and
    what all names of one side begin with."""
    known = {name: target for target, name in zip(targets, _bare(targets), strict=True)}
    pairs = zip(sources, _bare(sources), strict=True)
    return {source: known[name] for source, name in pairs if name in known}


def _bare(names: Sequence[str]) -> list[str]:
    plain = [name.rsplit(":", 1)[-1] for name in names]
    low, high = min(plain, default=""), max(plain, default="")
    same = (i for i, (a, b) in enumerate(zip(low, high, strict=False)) if a != b)
    common = low[: next(same, min(len(low), len(high)))] if len(plain) > 2 else ""
    end = max((common.rfind(sign) for sign in "_-|./ "), default=-1) + 1
    return [name[end:] for name in plain]


Words = tuple[Side | None, tuple[str, ...]]


def _words(name: str) -> Words:
    words = [w for w in tokens(name) if w not in side_words()]
    if FINGERS & set(words):  # which finger says already that it is one
        words = [w for w in words if w != "finger"]
    return side_from_name(name), tuple(sorted(words))


def _alike(source: str, left: Iterable[str], words: Mapping[str, Words]) -> str | None:
    side, own = words[source]
    compared = difflib.SequenceMatcher(None, "", " ".join(own))
    best, best_ratio = None, ALIKE
    for target in left:
        other_side, other = words[target]
        if other_side is not side:
            continue
        compared.set_seq1(" ".join(other))
        if compared.real_quick_ratio() > best_ratio and compared.ratio() > best_ratio:
            best, best_ratio = target, compared.ratio()
    return best
