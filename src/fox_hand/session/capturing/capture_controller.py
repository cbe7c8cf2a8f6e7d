"""From what is posed to a card in a library: begun, looked through, written, or left."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from enum import StrEnum
from functools import partial
from pathlib import Path
from typing import cast

from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr, tr_n
from fox_hand.core.model.state import State
from fox_hand.core.naming.part_words import side_word
from fox_hand.core.pose.sides import Sides
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.anchor import Anchor
from fox_hand.core.view.camera import Camera
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.schema import StyleName
from fox_hand.session.animating.clips import mirrored_clip
from fox_hand.session.animating.frame_review import FrameReview
from fox_hand.session.applying.mix import Mix, fit_of
from fox_hand.session.capturing.capture_pictures import CapturePictures, playing
from fox_hand.session.capturing.card_framing import frame_of_card, framed, shot_of, taken, worn
from fox_hand.session.capturing.carrying import carrying
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.capturing.file_cards import FileCards
from fox_hand.session.capturing.marked import Marked, ShotFrames
from fox_hand.session.capturing.puppet_cards import PuppetCards
from fox_hand.session.capturing.reshooting import Reshoots
from fox_hand.session.figures.cast import Cast
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.frame_name import FrameName
from fox_hand.session.figures.pose_conversion import (
    choice_of,
    mirrored_camera,
    mirrored_pose,
    side_after,
)
from fox_hand.session.figures.selection import Selection
from fox_hand.session.libraries.card_commands import CardCommands
from fox_hand.session.libraries.file_jobs import Outcome
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.libraries.storing import Pictures as Drawing
from fox_hand.session.libraries.storing import Storing, Wanted
from fox_hand.session.runtime.ports import Pictures
from fox_hand.session.runtime.settings import Settings
from fox_hand.session.shots.shots import Shots


class CaptureState(StrEnum):
    """How far a capture is."""

    NONE = "none"
    EDITING = "editing"
    SAVING = "saving"
    FAILED = "failed"  # nothing was written; the draft is as it was and can be saved again


class CaptureController:
    """The one way cards are made. At most one draft at a time.

    Args:
        cast, selection, shelf, shots, settings: what is captured, and how it is signed.
        review: frames that are looked through.
        storing, card_commands: where cards are written.
        keep: finishes what is being put on.
    """

    changed = Signal()  # a draft was begun, or is over
    state_changed = Signal(CaptureState)
    saved = Signal(Path)  # of a card that was written
    told = Signal(str)

    def __init__(
        self,
        cast: Cast,
        selection: Selection,
        open_libraries: OpenLibraries,
        shots: Shots,
        settings: Settings,
        review: FrameReview,
        storing: Storing,
        card_commands: CardCommands,
        keep: Callable[[], None],
    ) -> None:
        self._cast, self._selection, self._open_libraries, self._shots = (
            cast,
            selection,
            open_libraries,
            shots,
        )
        self._settings, self._review, self._keep = settings, review, keep
        self._storing, self._card_commands = storing, card_commands
        self._drawing = CapturePictures()
        self.reshoots = Reshoots(cast, card_commands, lambda: self._drawing)
        self.file_cards = FileCards(open_libraries, storing, lambda: self._drawing)
        self.puppet_cards = PuppetCards(
            cast, open_libraries, storing, settings, lambda: self._drawing
        )
        self.puppet_cards.told.connect(self.told.emit)
        self.frame_names: Callable[[Figure], Mapping[int, FrameName]] = lambda _: {}
        self.draft: CaptureDraft | None = None
        self.state = CaptureState.NONE

    def draw_with(self, pictures: Pictures) -> None:
        """From now on cards have pictures."""
        self._drawing = CapturePictures(pictures, lambda: self._settings.card_pictures == "large")

    # -- beginning ------------------------------------------------------------------------

    def why_not(self) -> str | None:
        """Why nothing can be captured now, as a sentence; None if it can."""
        if self._cast.acting is None:
            return tr("There is no figure on the stage yet. Open one first.")
        target = self._open_libraries.target
        if target is None:
            return tr("No library is open. Make one in the menu, then capture.")
        if not target.writable:
            return tr(
                "{name} can only be read by you. Choose another library for new cards.",
                name=target.name,
            )
        return None

    def ask(self) -> None:
        """Begin a capture of what is posed; why there is none is told."""
        problem = self.why_not()
        if problem is not None:
            self.told.emit(problem)
        else:
            self.begin()

    def ask_clip(self, span: tuple[float, float], over: Entry | None = None) -> None:
        """Begin a capture of what moves in a span of frames, perhaps over a card; why there is
        none is told."""
        problem = self.why_not()
        if problem is None and self.begin_clip(span, over) is None:
            problem = tr(
                "Nothing moves between frames {span:g} and {span_2:g}. Select keys on "
                "the strip, or key something first.",
                span=span[0],
                span_2=span[1],
            )
        if problem is not None:
            self.told.emit(problem)

    def begin(self, over: Entry | None = None, state: State | None = None) -> CaptureDraft | None:
        """Start a card of what is selected, else of what is away from rest.

        Args:
            over: a card that the new one replaces; its words are taken over.
            state: another pose than the figure's, such as that of another frame.
        """
        actor = self._cast.acting
        if actor is None:
            return None
        self._keep()
        draft = self._signed(CaptureDraft(actor, self._selection.rows, state))
        self._say_where(draft)
        if over is not None:
            draft.store_over(over)
        self._take_up(draft)
        return draft

    def ask_of(self, mix: Mix) -> None:
        """Keep what is being put on, and begin a card of exactly what it touches, or tell why
        there is none."""
        problem, actor = self.why_not(), mix.actor
        if problem is not None:
            self.told.emit(problem)
            return
        channel_ids, percent = mix.channel_ids, round(mix.amount * 100)
        alone, name = len(mix.cards) == 1, tr(" and ").join(one.card.name for one in mix.cards[:2])
        self._keep()
        draft = CaptureDraft(actor, mix.rows)
        draft.take_exactly(channel_ids)
        draft.name = f"{name} {percent} %" if alone and percent != 100 else name
        draft.tags = mix.card.tags if alone else ()
        draft = self._signed(draft)
        self._say_where(draft)
        self._take_up(draft)

    def _say_where(self, draft: CaptureDraft) -> None:
        sequence = self._review.sequence
        if sequence is not None and sequence.frame is not None and sequence.actor is draft.actor:
            draft.taken_from, draft.taken_frame = sequence.name, float(sequence.frame + 1)
        elif draft.actor.host:
            draft.taken_from, draft.taken_frame = draft.actor.host, self._cast.timing.frame
            draft.note = draft.note or tr("From {host}", host=draft.actor.host)
        elif self._shots.name:
            draft.taken_from, draft.taken_frame = self._shots.name, self._cast.timing.frame

    def _follow(self) -> None:
        """The figure of the draft stands otherwise, by hand or because the strip was moved."""
        draft = self.draft
        if draft is not None and draft.source is None and draft.span is None:
            self._say_where(draft)
            draft.stands.emit()

    def begin_clip(
        self, span: tuple[float, float], over: Entry | None = None
    ) -> CaptureDraft | None:
        """Start a card of what moves in a span of frames; None where nothing does."""
        actor = self._cast.acting
        if actor is None:
            return None
        self._keep()
        draft = CaptureDraft(actor, self._selection.rows)
        if not draft.take_span(span, self._selection.rows):
            return None
        draft = self._signed(draft)
        if self._shots.name:
            draft.taken_from, draft.taken_frame = self._shots.name, span[0]
        if over is not None:
            draft.store_over(over)
        self._take_up(draft)
        return draft

    def begin_retake(self, entry: Entry, card: Card) -> CaptureDraft | None:
        """Take only the picture of a card again: the figure wears it meanwhile."""
        actor = self._cast.acting
        if actor is None:
            return None
        self._keep()
        state = worn(actor.rig, card)
        draft = CaptureDraft(actor, list(choice_of(actor.rig, card.pose).channels), state)
        draft.retaken, draft.name, draft.sheet = (entry, card), card.name, entry.sheet
        draft.style, draft.ground = card.style, card.ground
        if card.frame is not None:
            draft.frame = frame_of_card(actor, card, actor.standing_in(state))
        self._take_up(draft)
        return draft

    def _signed(self, draft: CaptureDraft) -> CaptureDraft:
        settings = self._settings
        draft.author, draft.licence = settings.author, settings.licence
        draft.style, draft.ground = cast(StyleName, settings.card_style), settings.card_ground
        target = self._open_libraries.target
        whose = draft.actor.rig.name
        draft.sheet = target.usual_sheet(draft.region, whose) if target is not None else ""
        return draft

    def _take_up(self, draft: CaptureDraft) -> None:
        self._let_go()
        self.draft = draft
        draft.actor.posed.connect(self._follow)
        self._cast.timing.moved.connect(self._follow)
        self._go(CaptureState.EDITING)
        self.changed.emit()

    def _let_go(self) -> None:
        if self.draft is not None:
            self.draft.actor.posed.disconnect(self._follow)
            self._cast.timing.moved.disconnect(self._follow)

    def _go(self, state: CaptureState) -> None:
        if state is not self.state:
            self.state = state
            self.state_changed.emit(state)

    def cancel(self) -> None:
        """Leave the draft; nothing is written that is not on its way already."""
        if self.draft is not None:
            self._let_go()
            self.draft = None
            self._go(CaptureState.NONE)
            self.changed.emit()

    @property
    def marked(self) -> Marked | None:
        """Where frames can be marked now: a performance, else the shot."""
        actor = self._cast.acting
        if self._review.sequence is not None:
            return self._review.sequence
        if actor is None:
            return None
        return ShotFrames(actor, self._shots.name or "shot", self.frame_names(actor))

    # -- writing --------------------------------------------------------------------------

    def save(self, frame: Camera) -> None:
        """Draw the picture, then write the card; the draft stays open if that fails, and nothing
        is written twice while it lasts."""
        draft, place = self.draft, self._open_libraries.target
        if draft is None or place is None or draft.why_not() is not None:
            return
        if self.state is CaptureState.SAVING:
            return
        draft.frame = frame
        card = draft.card()
        pictures = self._drawing.drawn(draft.standing, frame, card, draft.motion())
        if draft.own_picture is not None:
            pictures = _with(draft.own_picture, pictures)
        self._go(CaptureState.SAVING)
        done = partial(self._done, draft)
        if draft.retaken is not None:
            self._card_commands.take_picture(draft.retaken[0], card, pictures, done)
            return
        if draft.over is not None:
            place = self._open_libraries.place_of(draft.over)
        word = tr("Store over") if draft.over is not None else tr("Capture")
        wanted = Wanted(card, pictures, draft.sheet, draft.over)
        self._storing.store(f"{word} {card.name}", place, [wanted], done)

    def save_marked(self, drafts: Sequence[CaptureDraft]) -> None:
        """Many cards in one go, each told of by itself if it does not work; one undo step."""
        draft, place = self.draft, self._open_libraries.target
        if draft is None or place is None or not drafts or self.state is CaptureState.SAVING:
            return
        tasks = [(one.name, partial(self._marked, one)) for one in drafts if one.channel_ids]
        if not tasks:
            self.told.emit(tr("Nothing moved on any of the marked frames: no card was taken."))
            return
        self._go(CaptureState.SAVING)
        label = tr_n("Capture {number} card", "Capture {number} cards", len(tasks))
        self._storing.store_later(label, place, tasks, partial(self._done, draft))

    def _marked(self, one: CaptureDraft) -> Wanted:
        """One of many, with a frame of its own around what it holds."""
        if one.frame is not None:
            one.frame = framed(one.actor, one.standing, sorted(one.rows), one.frame)
        card = one.card()
        return Wanted(card, self._drawing.drawn(one.standing, one.frame, card), one.sheet)

    def _done(self, draft: CaptureDraft, outcome: Outcome) -> None:
        """Another draft may have been begun meanwhile; it is not touched."""
        waits = any(error.code == "outbox.waiting" for _, error in outcome.failed)
        late = any(error.code == "card.changed_meanwhile" for _, error in outcome.failed)
        if self.draft is draft and (outcome.done or waits or late):
            card = draft.card()
            self._settings.author, self._settings.licence = card.author, card.licence
            self.cancel()
        elif self.draft is draft:
            self._go(CaptureState.FAILED)
        self._made(outcome)

    def _made(self, outcome: Outcome) -> None:
        for one in outcome.done:
            self.saved.emit(one.path)

    # -- other sides ----------------------------------------------------------------------

    def mirror(self, entries: Sequence[Entry], *, both: bool) -> None:
        """Cards of the other side, or of both sides, beside some cards; one undo step."""
        actor = self._cast.acting
        if actor is None or not entries:
            return
        by_place: dict[int, list[Entry]] = {}
        for entry in entries:
            by_place.setdefault(self._open_libraries.place_of(entry).number, []).append(entry)
        for number, own in by_place.items():
            place = self._open_libraries.place(number)
            assert place is not None
            self._mirror_in(place, own, actor, both)

    def _mirror_in(
        self, place: OpenLibrary, entries: list[Entry], actor: Figure, both: bool
    ) -> None:
        label = tr("Both sides of") if both else tr("Other side of")
        what = entries[0].name if len(entries) == 1 else tr("{count} cards", count=len(entries))
        tasks = [(entry.name, partial(self._mirrored, entry, actor, both)) for entry in entries]
        self._storing.store_later(f"{label} {what}", place, tasks, self._made)

    def _mirrored(self, entry: Entry, actor: Figure, both: bool) -> Wanted:
        """Computed in the job, where reading a card may take its time."""
        card, _ = read_card(entry.path)
        missing = fit_of(card, actor.rig).missing
        if missing:
            raise FoxHandError(
                "mirror.missing",
                tr_n(
                    "{name} holds {number} control that {name_2} does not have: {missing}.",
                    "{name} holds {number} controls that {name_2} does not have, such as "
                    "{missing}.",
                    len(missing),
                    name=entry.name,
                    name_2=actor.name,
                    missing=missing[0],
                ),
                tr("Nothing was written for it."),
                tr("Let the character act that the card was made for."),
            )
        pose = mirrored_pose(actor.rig, card.pose, both=both)
        side = side_after(card.side, both=both)
        made = replace(
            Card(f"{card.name}, {side_word(side) or tr('mirrored')}", pose),
            region=card.region,
            side=side,
            tags=card.tags,
            note=card.note,
            author=self._settings.author or card.author,
            licence=card.licence,
            character=card.character,
            fingerprint=card.fingerprint,
            around=mirrored_pose(actor.rig, card.around, both=both),
            style=card.style,
            ground=card.ground,
        )
        if not both and card.frame is not None:
            frame = mirrored_camera(card.frame, actor.rig.body)
            made = replace(made, frame=frame, anchor=_other(card, actor.rig))
        made = carrying(made, actor.rig)
        shot = shot_of(actor, made)
        made = taken(made, actor, shot.standing, shot.camera)
        motion = None
        if card.clip is not None:
            way = Sides.BOTH if both else Sides.OTHER
            clip = mirrored_clip(actor.rig, card.clip, way)
            made = replace(made, kind="clip", clip=clip)
            motion = playing(actor, clip, worn(actor.rig, made), shot.way)
        pictures = self._drawing.drawn(shot.standing, shot.camera, made, motion)
        return Wanted(made, pictures, entry.sheet)


def _with(own: tuple[bytes, bytes], drawn: Drawing) -> Drawing:
    """Still pictures from elsewhere; a clip's moving one is drawn."""
    return lambda: (*own, *drawn()[2:])


def _other(card: Card, rig: Rig) -> Anchor | None:
    """What the picture of the other side is of."""
    row = rig.control_row.get(card.anchor.control) if card.anchor is not None else None
    partner = rig.controls[row].partner if row is not None else None
    if card.anchor is None or partner is None:
        return None
    return card.anchor.mirrored(partner, rig.body)
