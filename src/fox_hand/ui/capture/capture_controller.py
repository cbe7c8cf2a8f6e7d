"""From a draft to card files: pictures, writing, and what is said about it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial

import numpy as np
from PySide6.QtCore import QObject, Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.core.animation.clip import Clip
from fox_hand.core.pose.sides import Sides
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Quality, Standing, View
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import PICTURE, read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.thumb import moving, png, webp
from fox_hand.session.animating.clips import mirrored_clip
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.applying.mix import fit_of
from fox_hand.session.capturing.draft import CaptureDraft, on_ground
from fox_hand.session.figures.animation import Animation
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.pose_conversion import (
    mirrored_camera,
    mirrored_pose,
    side_after,
    state_of,
)
from fox_hand.session.libraries.file_jobs import Outcome
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.libraries.storing import Drawn, Wanted
from fox_hand.session.libraries.storing import Pictures as Pictured
from fox_hand.session.runtime.ports import Pictures

MOVING = 160  # pixels of a moving picture
Motion = Callable[[float], Standing]
MOST = 72  # frames of one
WORDS = {"left": "left", "right": "right", "both": "both sides"}


class CaptureController(QObject):
    """Stores drafts and whole batches of cards."""

    saving = Signal(bool)
    saved = Signal(object)  # path of a card that was written

    def __init__(self, parent: QObject, workspace: Workspace, pictures: Pictures) -> None:
        super().__init__(parent)
        self._workspace, self._pictures = workspace, pictures

    def why_not(self) -> str | None:
        """Why nothing can be captured now, as a sentence; None if it can."""
        if self._workspace.actor is None:
            return "There is no figure on the stage yet. Open one first."
        target = self._workspace.shelf.target
        if target is None:
            return "No library is open. Make one in the menu, then capture."
        if not target.writable:
            return f"{target.name} can only be read by you. Choose another library for new cards."
        return None

    def drawn(
        self,
        standing: Standing,
        camera: Camera | None,
        card: Card,
        motion: Motion | None = None,
    ) -> Pictured:
        """How to draw a card's pictures, later and elsewhere.

        Args:
            standing, camera, card: what is drawn, and how.
            motion: how the figure stands at a frame of the card's clip.
        """

        def draw() -> Drawn:
            if camera is None:
                return None, None
            try:
                small, large = (
                    self._pictures.picture(_view(standing, camera, card, pixels)).pixels
                    for pixels in (PICTURE, 2 * PICTURE)
                )
            except FoxHandError:
                return None, None  # the pose is kept all the same: no work is lost for its looks
            if card.clip is None or motion is None:
                return png(small), webp(large)
            return png(small), webp(large), self._moving(motion, camera, card)

        return draw

    def _moving(self, motion: Motion, camera: Camera, card: Card) -> bytes | None:
        """The frames of a clip, small, as one file."""
        assert card.clip is not None
        frames, rate = motion_frames(card.clip)
        try:
            drawn = [
                self._pictures.picture(_view(motion(f), camera, card, MOVING)).pixels
                for f in frames
            ]
        except FoxHandError:
            return None
        return moving(drawn, rate)

    def save(self, frame: Camera) -> None:
        """Draw the picture, then write the card; the draft stays open if that fails."""
        draft, place = self._workspace.draft, self._workspace.shelf.target
        if draft is None or place is None or draft.why_not() is not None:
            return
        draft.frame = frame
        card = draft.card()
        pictures = self.drawn(draft.standing, frame, card, draft.motion())
        self.saving.emit(True)
        if draft.retaken is not None:
            self._workspace.card_commands.take_picture(
                draft.retaken[0], card, pictures, self._finished(draft)
            )
            return
        if draft.over is not None:
            place = self._workspace.shelf.place_of(draft.over)
        word = "Store over" if draft.over is not None else "Capture"
        wanted = Wanted(card, pictures, draft.sheet, draft.over)
        self._workspace.storing.store(f"{word} {card.name}", place, [wanted], self._finished(draft))

    def save_marked(self, drafts: Sequence[CaptureDraft]) -> None:
        """Many cards in one go, each told of by itself if it does not work; one undo step."""
        draft, place = self._workspace.draft, self._workspace.shelf.target
        if draft is None or place is None or not drafts:
            return
        wanted = []
        for one in drafts:
            card = one.card()
            wanted.append(Wanted(card, self.drawn(one.standing, one.frame, card), one.sheet))
        self.saving.emit(True)
        label = f"Capture {len(wanted)} cards"
        self._workspace.storing.store(label, place, wanted, self._finished(draft))

    def _finished(self, draft: CaptureDraft) -> partial[None]:
        return partial(self._done, draft)

    def _done(self, draft: CaptureDraft, outcome: Outcome) -> None:
        self.saving.emit(False)
        waits = any(error.code == "outbox.waiting" for _, error in outcome.failed)
        late = any(error.code == "card.changed_meanwhile" for _, error in outcome.failed)
        if (outcome.done or waits or late) and self._workspace.draft is draft:
            self._workspace.captured(draft.card())
        self._made(outcome)

    def _made(self, outcome: Outcome) -> None:
        for one in outcome.done:
            self.saved.emit(one.path)

    # -- other sides ----------------------------------------------------------------------

    def mirror(self, entries: Sequence[Entry], *, both: bool) -> None:
        """Cards of the other side, or of both sides, beside some cards; one undo step."""
        actor = self._workspace.actor
        if actor is None or not entries:
            return
        by_place: dict[int, list[Entry]] = {}
        for entry in entries:
            by_place.setdefault(self._workspace.shelf.place_of(entry).number, []).append(entry)
        for number, own in by_place.items():
            place = self._workspace.shelf.place(number)
            assert place is not None
            self._mirror_in(place, own, actor, both)

    def _mirror_in(
        self, place: OpenLibrary, entries: list[Entry], actor: Figure, both: bool
    ) -> None:
        label = "Both sides of" if both else "Other side of"
        what = entries[0].name if len(entries) == 1 else f"{len(entries)} cards"
        tasks = [(entry.name, partial(self._mirrored, entry, actor, both)) for entry in entries]
        self._workspace.storing.store_later(f"{label} {what}", place, tasks, self._made)

    def _mirrored(self, entry: Entry, actor: Figure, both: bool) -> Wanted:
        """Computed in the job, where reading a card may take its time."""
        card, _ = read_card(entry.path)
        missing = fit_of(card, actor.rig).missing
        if missing:
            raise FoxHandError(
                "mirror.missing",
                f"{entry.name} holds {len(missing)} controls that {actor.name} does not have, "
                f"such as {missing[0]}.",
                "Nothing was written for it.",
                "Let the character act that the card was made for.",
            )
        pose = mirrored_pose(actor.rig, card.pose, both=both)
        side = side_after(card.side, both=both)
        frame = card.frame
        if frame is not None and not both:
            frame = mirrored_camera(frame)
        made = replace(
            Card(f"{card.name}, {WORDS.get(side, 'mirrored')}", pose),
            region=card.region,
            side=side,
            tags=card.tags,
            note=card.note,
            author=self._workspace.settings.author or card.author,
            licence=card.licence,
            character=card.character,
            fingerprint=card.fingerprint,
            frame=frame,
            style=card.style,
            ground=card.ground,
        )
        motion = None
        if card.clip is not None:
            way = Sides.BOTH if both else Sides.OTHER
            clip = mirrored_clip(actor.rig, card.clip, way)
            made = replace(made, kind="clip", clip=clip)
            motion = _playing(actor, clip)
        standing = actor.standing_in(state_of(actor.rig, pose))
        camera = on_ground(frame, actor) if frame is not None else _framing(actor, made)
        return Wanted(made, self.drawn(standing, camera, made, motion), entry.sheet)


def _playing(actor: Figure, clip: Clip) -> Motion:
    """How a figure stands at a frame of a clip, everything else at rest."""
    take = Animation(actor.rig, actor.rig.rest, clip.keys)
    return lambda frame: actor.standing_in(take.at(frame))


def motion_frames(clip: Clip) -> tuple[list[float], float]:
    """Which frames of a clip its moving picture shows, and how many a second: all of them, of
    long ones fewer. The last of a loop is its first and is left out."""
    loops = not clip.seams()
    count = max(round(clip.length) + (0 if loops else 1), 1)
    step = max(int(np.ceil(count / MOST)), 1)
    return [float(f) for f in range(0, count, step)], clip.rate / step


def _view(standing: Standing, camera: Camera, card: Card, pixels: int) -> View:
    return View((standing,), camera, pixels, pixels, Quality.CARD, card.ground, style=card.style)


def _framing(actor: Figure, card: Card) -> Camera:
    """A frame around what a card holds."""
    state = state_of(actor.rig, card.pose)
    rows = [actor.rig.control_row[n] for n in card.pose.controls if n in actor.rig.control_row]
    at = actor.standing_in(state).at
    points = actor.rig.flesh(at, actor.flesh_nodes(rows) if rows else None)
    return Camera(yaw=0.35, pitch=0.1).framing(points, 1.0)
