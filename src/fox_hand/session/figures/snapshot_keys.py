"""Keys, blocks and times of a shot as they are written down."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated

import msgspec

from fox_hand.base.files.documents import Number, Positive
from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.clip_instances import ClipInstance
from fox_hand.core.animation.curves import Keys, Origin
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.model.controls import Side
from fox_hand.core.pose.pose import Pose
from fox_hand.library.format.card import controls_of, held_file
from fox_hand.library.format.lines_file import EASES, LETTERS, KeptLine, LineBook, lines_from
from fox_hand.library.format.schema import HeldFile
from fox_hand.session.figures.playhead import Playhead

Frame = Annotated[int, msgspec.Meta(ge=-(10**7), le=10**7)]


class KeptOrigin(msgspec.Struct, omit_defaults=True):
    """A card that keys came from."""

    number: int
    card: str
    name: str
    revision: int = 1
    amount: Number = 1.0
    side: str = "captured"
    whole: bool = True
    content: str = ""
    way: str = "replace"
    regions: list[str] = []
    controls: list[str] = []
    amounts: dict[str, Number] = {}
    base: dict[str, HeldFile] | None = None


class KeptTime(msgspec.Struct, omit_defaults=True):
    """The range, the rate and the marks of a shot."""

    first: Frame = 1
    last: Frame = 72
    rate: Positive = 24.0
    frame: Number = 1.0
    marks: list[Frame] = []
    ease: str = "s"


class KeptClip(msgspec.Struct, omit_defaults=True):
    """A clip that blocks play: the shot has its own, so nothing changes by itself."""

    length: Positive
    rate: Positive
    lines: list[KeptLine]


class KeptBlock(msgspec.Struct, omit_defaults=True):
    """A clip laid in: the number of the clip, the card it came from, and how it is played.
    ``ahead`` is the side that leads."""

    clip: int
    origin: KeptOrigin
    start: Number
    repeats: Number = 1.0
    speed: Positive = 1.0
    backwards: bool = False
    gap: Number = 0.0
    lead: Number = 0.0
    ahead: Side = Side.LEFT
    fade_in: Number = 0.0
    fade_out: Number = 0.0
    strength: Number = 1.0
    on_top: bool = False
    jitter: Number = 0.0
    doubles: Number = 0.0
    seed: int = 1


def kept_origins(keys: Keys) -> list[KeptOrigin]:
    """The cards they came from."""
    return [_kept_origin(n, o) for n, o in sorted(keys.origins.items())]


def _kept_origin(number: int, o: Origin) -> KeptOrigin:
    base = None if o.base is None else o.base.controls
    return KeptOrigin(
        number,
        o.card,
        o.name,
        o.revision,
        o.amount,
        o.side,
        o.whole,
        o.content,
        o.way,
        list(o.regions),
        list(o.controls),
        dict(o.amounts),
        None if base is None else {name: held_file(held) for name, held in base.items()},
    )


def _origin(o: KeptOrigin) -> Origin:
    return Origin(
        o.card,
        o.name,
        o.revision,
        o.amount,
        o.side,
        o.whole,
        o.content,
        o.way,
        tuple(o.regions),
        tuple(o.controls),
        tuple(o.amounts.items()),
        None if o.base is None else Pose(controls_of(o.base)),
    )


def keys_from(lines: Sequence[KeptLine], origins: Sequence[KeptOrigin]) -> Keys:
    """The keys that were written down."""
    return Keys(lines_from(lines), {o.number: _origin(o) for o in origins})


def kept_blocks(
    instances: Sequence[ClipInstance], book: LineBook
) -> tuple[list[KeptClip], list[KeptBlock]]:
    """Blocks, and the clips they play, each clip once."""
    clips: list[Clip] = []
    found = []
    for instance in instances:
        if not any(instance.clip is known for known in clips):
            clips.append(instance.clip)
        number = next(i for i, known in enumerate(clips) if known is instance.clip)
        found.append(
            KeptBlock(
                number,
                _kept_origin(0, instance.origin),
                instance.start,
                instance.repeats,
                instance.speed,
                instance.backwards,
                instance.gap,
                instance.lead,
                instance.lead_side,
                instance.fade_in,
                instance.fade_out,
                instance.strength,
                instance.on_top,
                instance.jitter,
                instance.doubles,
                instance.seed,
            )
        )
    return [KeptClip(c.length, c.rate, book.write(c.lines)) for c in clips], found


def blocks_from(
    clips: Sequence[KeptClip], instances: Sequence[KeptBlock]
) -> tuple[ClipInstance, ...]:
    """The blocks that were written down; those whose clip is not there are left out."""
    played = [Clip(lines_from(c.lines), c.length, c.rate) for c in clips]
    return tuple(
        ClipInstance(
            played[b.clip],
            _origin(b.origin),
            b.start,
            max(b.repeats, 0.01),
            min(max(b.speed, 0.05), 20.0),
            b.backwards,
            max(b.gap, 0.0),
            b.lead,
            b.ahead,
            max(b.fade_in, 0.0),
            max(b.fade_out, 0.0),
            b.strength,
            b.on_top,
            max(b.jitter, 0.0),
            b.doubles,
            b.seed,
        )
        for b in instances
        if 0 <= b.clip < len(played) and played[b.clip].length > 0
    )


def kept_time(timing: Playhead) -> KeptTime:
    """When everything happens."""
    return KeptTime(
        timing.first,
        timing.last,
        timing.rate,
        timing.frame,
        sorted(timing.marks),
        EASES[timing.ease],
    )


def wake_time(timing: Playhead, kept: KeptTime) -> None:
    """As it was written down."""
    timing.set_range(kept.first, kept.last)
    timing.set_rate(kept.rate)
    timing.put(kept.frame)
    timing.set_marks(kept.marks)
    timing.work_with(ease=LETTERS.get(kept.ease, Ease.SMOOTH))
    timing.moved.emit()
