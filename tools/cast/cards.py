"""``python -m cast.cards RIG LIBRARY``: the demo's first cards, posed, pictured and stored."""

from __future__ import annotations

import hashlib
import shutil
import sys
from collections.abc import Iterable
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from cast.clips import Made, all_clips, first_pose
from cast.poses import BODY_POSES, EXPRESSIONS, HAND_SHAPES, Poser, expression, hand_shape
from fox_hand.core.animation.clip import Player
from fox_hand.core.animation.curves import row_of
from fox_hand.core.model.controls import Channel, Region
from fox_hand.core.model.state import State
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.pose import ChannelFilter, take
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Pixels, Quality, Standing, View
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import PICTURE, card_bytes
from fox_hand.library.format.schema import SideName
from fox_hand.library.format.thumb import moving, png, webp
from fox_hand.library.store.store import Library
from fox_hand.render.engine import Engine
from fox_hand.session.capturing.card_framing import around, taken
from fox_hand.session.capturing.carrying import carrying
from fox_hand.session.figures.figure import Figure

MOVING, MOST = 160, 72  # pixels and frames of a moving picture
DAY = "2026-11-12T09:{:02}:00Z"


@dataclass(frozen=True)
class Words:
    """What people wrote on a card."""

    tags: tuple[str, ...]
    note: str
    author: str = "Ines B."


WORDS = {
    "Relaxed": Words(("idle",), "Hanging hands. Wrist is free."),
    "Fist": Words(("grip", "cross"), "Closed, thumb over the middle finger."),
    "Tense": Words(("claw", "cold"), "Before the rope slips."),
    "Open wide": Words(("wave", "hello", "deck"), "For the big hello on deck. Not with mittens."),
    "Point": Words(("lake",), "Across the water, never at people."),
    "Flat": Words(("stop",), "Palm for stop, edge for the salute."),
    "Two-finger": Words(("count",), "Two tickets, please.", "Tomas R."),
    "Fox": Words(("fox", "crew"), "The crew's greeting: tips must touch.", "Tomas R."),
    "Neutral": Words(("base",), "What every other face starts from."),
    "Glad": Words(("smile", "hello"), "Eyes smile too."),
    "Sad": Words(("down",), "Looks at the planks."),
    "Angry": Words(("cross",), "Teeth show a little."),
    "Afraid": Words(("fog",), "Something in the fog."),
    "Surprised": Words(("gasp",), "First sight of the stowaway."),
    "Disgusted": Words(("fish",), "Uneven on purpose.", "Tomas R."),
    "Stand easy": Words(("idle", "base"), "Weight on the right leg."),
    "Wave": Words(("hello", "deck"), "Left arm up; swap sides for the other rail."),
    "Point across": Words(("lake", "action"), "Lunge towards the far shore.", "Tomas R."),
    "Sit on bollard": Words(("rest",), "Bollard is 0.45 m high."),
    "Crouch": Words(("hide", "low"), "Behind the rail."),
    "Arms up": Words(("cheer",), "Land in sight.", "Tomas R."),
    "Blink": Words(("lids", "often"), "Lids only. Lay it over anything."),
    "Blink, film": Words(("lids", "often"), "The same for 24 frames a second."),
    "Double blink": Words(("lids",), "When something does not add up.", "Tomas R."),
    "Nod": Words(("yes", "head"), "Head and neck only; goes on top."),
    "Breathe": Words(("idle", "loop"), "Four seconds; repeat it over any pose."),
    "Wave loop": Words(("hello", "loop"), "Left arm; begins as it ends.", "Tomas R."),
    "Walk loop": Words(("walk", "loop"), "On the spot, a second for two steps."),
}


def _rows(rig: Rig, names: Iterable[str]) -> list[int]:
    return [rig.control_row[n] for n in names]


class Maker:
    """Stores cards of one rig into one library."""

    def __init__(self, rig: Rig, library: Library) -> None:
        self._rig, self._library, self._engine = rig, library, Engine()
        self._actor = Figure(rig, Path())
        self._count = 0

    def card(
        self,
        sheet: str,
        name: str,
        state: State,
        choice: ChannelFilter,
        camera: Camera,
        region: Region,
        side: SideName,
    ) -> None:
        """Take, picture and write one card."""
        words, rig = WORDS[name], self._rig
        self._count += 1
        when = DAY.format(self._count)
        card = Card(
            name=name,
            pose=take(rig, state, choice),
            region=region,
            side=side,
            tags=words.tags,
            note=words.note,
            author=words.author,
            licence="Show only",
            character=rig.name,
            fingerprint=rig.fingerprint,
            identity=hashlib.sha256(f"{rig.name}/{sheet}/{name}".encode()).hexdigest()[:32],
            created=when,
            changed=when,
            around=around(rig, state, choice),
        )
        card = taken(carrying(card, rig), self._actor, self._actor.standing_in(state), camera)
        small, large = (self._drawn(state, camera, n) for n in (PICTURE, 2 * PICTURE))
        folder = self._library.folder / sheet
        folder.mkdir(parents=True, exist_ok=True)
        (folder / f"{name}.foxcard").write_bytes(card_bytes(card, png(small), webp(large)))

    def clip(self, made: Made) -> None:
        """Take, picture and write a clip."""
        words, rig, sheet = WORDS[made.name], self._rig, "Marrow/Clips"
        self._count += 1
        when = DAY.format(self._count)
        player = Player(rig, made.clip)
        states = {
            f: blend(rig.rest, player.at(f), 1.0, rig.setting_rules) for f in (0.0, made.look)
        }
        view = Camera(yaw=float(np.radians(made.yaw)), pitch=0.05)
        camera = framed(rig, states[made.look], made.nodes, view, 1.14)
        rows = {row_of(rig, channel_id) for channel_id in made.clip.lines} - {None}
        whole = take(rig, states[0.0], ChannelFilter.of(rig, [r for r in rows if r is not None]))
        card = Card(
            name=made.name,
            pose=first_pose(made.clip, rig, whole),
            region=made.region,
            side=made.side,
            tags=words.tags,
            note=words.note,
            author=words.author,
            licence="Show only",
            character=rig.name,
            fingerprint=rig.fingerprint,
            identity=hashlib.sha256(f"{rig.name}/{sheet}/{made.name}".encode()).hexdigest()[:32],
            created=when,
            changed=when,
            kind="clip",
            clip=made.clip,
        )
        card = carrying(card, rig)
        card = taken(card, self._actor, self._actor.standing_in(states[0.0]), camera)
        small, large = (self._drawn(states[made.look], camera, n) for n in (PICTURE, 2 * PICTURE))
        frames = []
        for frame in range(round(made.clip.length)):
            state = blend(rig.rest, player.at(float(frame)), 1.0, rig.setting_rules)
            frames.append(self._drawn(state, camera, MOVING))
        step = max(-(-len(frames) // MOST), 1)
        motion = moving(frames[::step], made.clip.rate / step)
        folder = self._library.folder / sheet
        folder.mkdir(parents=True, exist_ok=True)
        data = card_bytes(card, png(small), webp(large), motion)
        (folder / f"{made.name}.foxcard").write_bytes(data)

    def _drawn(self, state: State, camera: Camera, pixels: int) -> Pixels:
        standing = Standing(self._rig, self._rig.evaluate(state))
        view = View((standing,), camera, pixels, pixels, Quality.CARD)
        return self._engine.draw(view).pixels


def framed(rig: Rig, state: State, nodes: Iterable[str], camera: Camera, margin: float) -> Camera:
    wanted = [i for i, n in enumerate(rig.skeleton.names) if n in set(nodes)]
    camera = camera.framing(rig.flesh(rig.evaluate(state), wanted), 1.0, margin)
    rounded = [round(float(v), 4) for v in camera.target]
    return replace(
        camera, target=(rounded[0], rounded[1], rounded[2]), distance=round(camera.distance, 4)
    )


def make_all(rig: Rig, library: Library) -> None:
    """Eight hand shapes, seven faces, six body poses, seven clips."""
    maker = Maker(rig, library)
    bones = [n for n in rig.skeleton.names if n in rig.control_row]
    fingers = [n for n in bones if n.startswith("finger_") and n.endswith("_L")]
    for name in HAND_SHAPES:
        poser = expression(Poser(rig), "Neutral")
        poser.aim("arm_L", (0.5, -1, 0.1), (0, 0, 1)).aim("forearm_L", (0.5, 0.35, 1), (0, 1, 0))
        poser.aim("hand_L", (0.05, 1, 0.25), (-0.15, -0.2, 1))
        open_hand = hand_shape(poser, "Flat", "L").state
        view = Camera(yaw=float(np.radians(4)), pitch=0.04)
        camera = framed(rig, open_hand, ["hand_L", *fingers], view, 1.2)
        state = hand_shape(poser, name, "L").state
        turns = ChannelFilter.of(rig, _rows(rig, fingers), (Channel.TURN,))
        # the shape depends on these through the rig's drives, so it holds them at rest
        choice = ChannelFilter(
            turns.channels, frozenset(rig.settings_of[rig.control_row["hand_L"]])
        )
        maker.card("Marrow/Hands", name, state, choice, camera, Region.HANDS, "left")
    face = [*_rows(rig, rig.sets["Face"])]
    for name in EXPRESSIONS:
        state = expression(Poser(rig), name).state
        view = Camera(yaw=float(np.radians(14)), pitch=0.0)
        camera = framed(rig, rig.rest, ["head", "jaw"], view, 1.14)
        choice = ChannelFilter.of(rig, face, (Channel.TURN,))
        maker.card("Marrow/Face", name, state, choice, camera, Region.HEAD, "centre")
    held = [n for n in bones if n not in rig.sets["Face"] and not n.startswith("finger")]
    for name, pose in BODY_POSES.items():
        poser = pose(expression(Poser(rig), "Neutral"))
        full = [*held, *(n for n in bones if n.startswith("finger"))]
        view = Camera(yaw=float(np.radians(-38 if name == "Point across" else 24)), pitch=0.07)
        camera = framed(rig, poser.state, bones, view, 1.10)
        choice = ChannelFilter.of(rig, _rows(rig, full), (Channel.TURN, Channel.MOVE))
        maker.card("Marrow/Body", name, poser.state, choice, camera, Region.TORSO, "centre")
    for made in all_clips(rig):
        maker.clip(made)


def main() -> None:
    rig, folder = read_rig(Path(sys.argv[1])), Path(sys.argv[2])
    shutil.rmtree(folder, ignore_errors=True)
    sheets = ("Marrow/Hands", "Marrow/Face", "Marrow/Body", "Marrow/Clips")
    make_all(rig, Library.create(folder, "Night Ferry show", sheets))
    for path in sorted(folder.rglob("*.foxcard")):
        print(path.relative_to(folder), path.stat().st_size)


if __name__ == "__main__":
    main()
