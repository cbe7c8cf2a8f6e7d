"""The bar over the stage while a clip is laid in or a block is changed."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from fox_hand.base.language import number_text, tr, tr_n
from fox_hand.core.model.controls import Side
from fox_hand.core.pose.sides import Sides
from fox_hand.session.animating.clip_placement import ClipPlacement
from fox_hand.session.app.needs import Animating
from fox_hand.ui.stage.stage_view import Stage
from fox_hand.ui.theme.plain_text import Words, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.choice import Choice
from fox_hand.ui.widgets.fields.number_field import NumberField
from fox_hand.ui.widgets.flow import Flow

WIDEST = 880
ROOMY, SPREAD = 800, 560  # pixels; narrower, choices are menus; words stand above the fields
WORDS = 112  # pixels
SIDES = (
    (Sides.CAPTURED.value, tr("As captured")),
    (Sides.OTHER.value, tr("Other")),
    ("both", tr("Both")),
)
AHEAD = (("", tr("Neither")), (Side.LEFT.value, "L"), (Side.RIGHT.value, "R"))


class ClipBar(QWidget):
    """How often, how fast, how strongly; the figure and the strip follow at once."""

    told = Signal(str)

    def __init__(self, theme: Theme, workspace: Animating, stage: Stage) -> None:
        super().__init__(stage)
        self._theme, self._workspace, self._stage = theme, workspace, stage
        self._placement: ClipPlacement | None = None
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._title, self._what = Words(""), Words("")
        self._title.setProperty("role", "title")
        self._what.setProperty("quiet", True)
        self._numbers()
        self._choices()
        self._arrange()
        self.hide()
        workspace.placements.changed.connect(self._on_laying)
        workspace.timing.moved.connect(self._place_word)

    def _numbers(self) -> None:
        many = 10_000.0
        self.repeats = NumberField(
            tr("Times"), 0.25, many, tip=tr("Pull its right edge on the strip too")
        )
        self.speed = NumberField(tr("Speed"), 5, 2000, 5, " %")
        self.gap = NumberField(tr("Gap"), 0, many, tip=tr("Frames of rest between two times"))
        self.strength = NumberField(tr("Strength"), -100, 200, 5, " %")
        self.fade_in = NumberField(tr("In"), 0, many, tip=tr("Frames over which it comes in"))
        self.fade_out = NumberField(tr("Out"), 0, many, tip=tr("Frames over which it goes out"))
        self.lead = NumberField(tr("ahead by"), 0, 48, tip=tr("Frames that one side is ahead"))
        self.jitter = NumberField(
            tr("± frames"), 0, 500, tip=tr("Each time may come so much off its time")
        )
        self.doubles = NumberField(
            tr("Twice"), 0, 100, 5, " %", tip=tr("How many come twice in a row")
        )
        self._values = (
            (self.repeats, "repeats", 1.0),
            (self.speed, "speed", 0.01),
            (self.gap, "gap", 1.0),
            (self.strength, "strength", 0.01),
            (self.fade_in, "fade_in", 1.0),
            (self.fade_out, "fade_out", 1.0),
            (self.lead, "lead", 1.0),
            (self.jitter, "jitter", 1.0),
            (self.doubles, "doubles", 0.01),
        )
        for field, name, factor in self._values:
            field.changed.connect(partial(self._number, name, factor))
            field.told.connect(self.told)

    def _choices(self) -> None:
        theme = self._theme
        self.side = Choice(theme, SIDES, tr("Side of the body"))
        self.side.chosen.connect(lambda value: self._do(lambda x: x.set_side(Sides(value))))
        self.ahead = Choice(theme, AHEAD, tr("Which side is ahead"))
        self.ahead.chosen.connect(self._ahead)
        self.on_top = Button(
            theme,
            tr("On top"),
            kind=Kind.SWITCH,
            height=24,
            tip=tr("Added to what is there, else instead"),
        )
        self.on_top.clicked.connect(lambda: self._change(on_top=self.on_top.isChecked()))
        self.backwards = Button(theme, tr("Backwards"), kind=Kind.SWITCH, height=24)
        self.backwards.clicked.connect(lambda: self._change(backwards=self.backwards.isChecked()))
        self.another = Button(
            theme,
            tr("Another way"),
            kind=Kind.CHIP,
            height=24,
            tip=tr("Other times of the same kind"),
        )
        self.another.clicked.connect(self._another)
        self.seam = Button(theme, tr("No seam"), kind=Kind.CHIP, height=24)
        self.seam.clicked.connect(lambda: self._do(ClipPlacement.make_seamless))
        self.feet = Button(
            theme,
            tr("Feet hold"),
            kind=Kind.SWITCH,
            height=24,
            tip=tr("Feet hold the ground where those of the card do"),
        )
        self.feet.clicked.connect(lambda: self._do(lambda x: x.hold_feet(self.feet.isChecked())))
        self.as_keys = Button(
            theme, tr("As keys"), kind=Kind.CHIP, height=24, tip=tr("The block becomes plain keys")
        )
        self.as_keys.clicked.connect(self._workspace.placements.as_keys)
        self.keep_button = Button(theme, tr("Keep"), kind=Kind.MAIN, key="Enter")
        self.keep_button.clicked.connect(self._workspace.placements.keep)
        self.back_button = Button(theme, tr("Put back"), key="Esc")
        self.back_button.clicked.connect(self._workspace.placements.put_back)

    def _arrange(self) -> None:
        """Words, fields that flow, and buttons; where there is little room below each other."""
        self._words = QWidget()
        words = QVBoxLayout(self._words)
        words.setContentsMargins(0, 0, 0, 0)
        words.setSpacing(0)
        words.addWidget(self._title)
        words.addWidget(self._what)
        self._fields = QWidget()
        self._flow = flow = Flow(8)
        flow.setContentsMargins(0, 0, 0, 0)
        self._fields.setLayout(flow)
        for widget in (
            self.repeats,
            self.speed,
            self.gap,
            self.strength,
            self.fade_in,
            self.fade_out,
            self.side,
            self.ahead,
            self.lead,
            self.jitter,
            self.doubles,
            self.another,
            self.on_top,
            self.backwards,
            self.feet,
            self.seam,
            self.as_keys,
        ):
            flow.addWidget(widget)
        width = max(b.sizeHint().width() for b in (self.keep_button, self.back_button))
        for part in (self._words, self._fields, self.keep_button, self.back_button):
            part.setParent(self)
        for button in (self.keep_button, self.back_button):
            button.setFixedWidth(width)

    def _lay_out(self, width: int) -> int:
        """Place everything for a width; returns the height."""
        keep, back = self.keep_button, self.back_button
        wide = keep.width()
        if width >= SPREAD:
            left = 12 + WORDS + 12
            room = width - left - wide - 24
            fields = self._flow.heightForWidth(room)
            self._words.setGeometry(12, 10, WORDS, 36)
            self._fields.setGeometry(left, 10, room, fields)
            keep.move(width - wide - 12, 10)
            back.move(width - wide - 12, 10 + 28 + 8)
            return max(fields + 20, 84)
        self._words.setGeometry(12, 8, width - 2 * wide - 44, 36)
        keep.move(width - wide - 12, 10)
        back.move(width - 2 * wide - 20, 10)
        fields = self._flow.heightForWidth(width - 24)
        self._fields.setGeometry(12, 52, width - 24, fields)
        return 52 + fields + 10

    # -- following ------------------------------------------------------------------------

    def _on_laying(self) -> None:
        placement = self._workspace.placements.now
        self._placement = placement
        if placement is None and self.isAncestorOf(self.window().focusWidget()):
            self._stage.setFocus(Qt.FocusReason.OtherFocusReason)
        self.setVisible(placement is not None)
        if placement is None:
            self._stage.bottom_reserved = 0
            return
        placement.changed.connect(self._show)
        self.raise_()
        self.place()
        self._show()

    def _show(self) -> None:
        placement = self._placement
        if placement is None or placement is not self._workspace.placements.now:
            return
        instance = placement.instance
        times = (
            " ×" + number_text(instance.repeats, "g") if abs(instance.repeats - 1) > 1e-6 else ""
        )
        metrics = self._title.fontMetrics()
        title = f"{instance.origin.name}{times}"
        self._title.setText(metrics.elidedText(title, Qt.TextElideMode.ElideRight, 110))
        self._title.setToolTip(plain_tip(title))
        self._place_word()
        for field, name, factor in self._values:
            field.show_value(getattr(instance, name) / factor)
        self.side.set_value(placement.side.value)
        self.ahead.set_value(instance.lead_side.value if instance.lead else "")
        self.on_top.setChecked(instance.on_top)
        self.backwards.setChecked(instance.backwards)
        self.another.setEnabled(instance.jitter > 0 or instance.doubles > 0)
        self.feet.setVisible(placement.feet is not None)
        self.feet.setChecked(placement.feet_hold)
        seam = placement.seam
        self.seam.tint = ("warning", "warning_ground") if seam else ("good", "raised")
        self.seam.setText(tr("Close seam") if seam else tr("No seam"))
        self.seam.setEnabled(seam)
        self.seam.setToolTip(
            tr("It jumps where it begins again; the end becomes the beginning")
            if seam
            else tr("It ends as it begins")
        )
        self.seam.updateGeometry()

    def _place_word(self) -> None:
        placement = self._placement
        if placement is not None:
            instance = placement.instance
            frames = tr_n("{number:,} frame", "{number:,} frames", round(instance.clip.length) + 1)
            self._what.setText(tr("{frames}, at {start:g}", frames=frames, start=instance.start))

    # -- doing ----------------------------------------------------------------------------

    def _do(self, what: Callable[[ClipPlacement], object]) -> None:
        if self._placement is not None:
            what(self._placement)

    def _change(self, **fields: object) -> None:
        if self._placement is not None:
            self._placement.change(**fields)

    def _number(self, name: str, factor: float, value: float) -> None:
        self._change(**{name: value * factor})

    def _ahead(self, value: str) -> None:
        placement = self._placement
        if placement is None:
            return
        if not value:
            self._change(lead=0.0)
        else:
            self._change(lead_side=Side(value), lead=placement.instance.lead or 1.0)

    def _another(self) -> None:
        if self._placement is not None:
            self._change(seed=self._placement.instance.seed + 1)

    def place(self) -> None:
        """12 px from the stage's lower edge."""
        stage = self._stage
        width = min(max(stage.width() - 24, 320), WIDEST)
        for choice in (self.side, self.ahead):
            choice.set_compact(width < ROOMY)
        height = self._lay_out(width)
        self.setFixedSize(width, height)
        self.move((stage.width() - width) // 2, stage.height() - height - 12)
        if self._placement is not None:
            stage.bottom_reserved = height + 12
