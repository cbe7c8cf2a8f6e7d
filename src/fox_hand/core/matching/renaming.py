"""Other names for the controls of a pose."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import replace

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.matching.name_match import Rules
from fox_hand.core.pose.pose import Held, Pose


def renamed(pose: Pose, rules: Rules) -> Pose:
    """The pose with the rules used on all names: of controls, of what they hang on, of settings.

    Raises:
        FoxHandError: ``names.pattern``, or ``names.collide`` if two would become one.
    """
    settings = [s for held in pose.controls.values() for s in held.settings]
    for names in (list(pose.controls), settings):
        _refuse_collisions(names, rules)
    return Pose({rules.applied(n): _held(h, rules) for n, h in pose.controls.items()})


def renamed_clip(clip: Clip, rules: Rules) -> Clip:
    """The clip with the rules used on the names of all its channels.

    Raises:
        FoxHandError: as :func:`renamed`.
    """
    for kind in ChannelKind:
        _refuse_collisions(
            [channel_id.name for channel_id in clip.lines if channel_id.kind is kind], rules
        )
    lines = {
        ChannelId(channel_id.kind, rules.applied(channel_id.name)): line
        for channel_id, line in clip.lines.items()
    }
    return replace(clip, lines=lines)


def _held(held: Held, rules: Rules) -> Held:
    rest = held.rest
    if rest is not None and rest.parent is not None:
        rest = replace(rest, parent=rules.applied(rest.parent))
    return replace(
        held,
        settings={rules.applied(n): v for n, v in held.settings.items()},
        options={rules.applied(n): v for n, v in held.options.items()},
        rest=rest,
    )


def _refuse_collisions(names: Iterable[str], rules: Rules) -> None:
    counts = Counter(rules.applied(name) for name in dict.fromkeys(names))
    twice = [name for name, count in counts.items() if count > 1]
    if twice:
        raise FoxHandError(
            "names.collide",
            tr("Two controls would be called {twice}.", twice=twice[0]),
            tr("The card was left as it is."),
            tr("Change the rules so that every name stays different."),
        )
