"""What one unit of a recording is, where its file does not say it."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QWidget

from fox_hand.base.language import number_text, tr
from fox_hand.session.figures.rig_files import UNITS, unit_word
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.passing_menu import passing_menu

HEIGHT = 28


def unit_name(metres: float) -> str:
    """What people call a unit, or its length."""
    named = (unit_word(name) for name, size in UNITS.items() if abs(size - metres) < 1e-9)
    return next(named, number_text(metres, "g") + " m")


class UnitLine(QWidget):
    """One line: the unit, which can be changed, and how tall that makes the figure."""

    said = Signal(float)  # metres

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._unit, self._height = 1.0, 1.0
        self.setFixedHeight(HEIGHT)
        self.button = Button(theme, "", kind=Kind.FLAT, height=24, menu=True)
        self.button.setToolTip(
            tr("The file does not say its unit. Kept beside it when it is laid in")
        )
        self.button.setAccessibleName(tr("Unit of the recording"))
        self.button.clicked.connect(self._ask)
        self.tall = Words("")
        self.tall.setProperty("quiet", True)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        row.addWidget(Words(tr("It is recorded in")))
        row.addWidget(self.button)
        row.addStretch(1)
        row.addWidget(self.tall)

    def show_unit(self, unit: float | None, height: float, *, guessed: bool) -> None:
        """Show a unit, and how tall the figure of the recording is in it, metres; a file that says
        its unit has no such line. ``guessed``: nobody has said it."""
        self.setVisible(unit is not None)
        if unit is not None:
            self._unit, self._height = unit, height
            self.button.setText(unit_name(unit))
            self.button.setAccessibleName(
                tr("Unit of the recording: {unit_name}", unit_name=unit_name(unit))
            )
            self.button.updateGeometry()
            self.tall.setText(
                tr(
                    "{height:.2f} m tall{rest}",
                    height=height,
                    rest=tr(", a guess") if guessed else "",
                )
            )

    def _ask(self) -> None:
        menu = passing_menu(self)
        for name, size in UNITS.items():
            tall = self._height * size / self._unit
            action = menu.addAction(
                tr("{name}, {tall:.3g} m tall", name=unit_word(name), tall=tall),
                partial(self.said.emit, size),
            )
            action.setCheckable(True)
            action.setChecked(abs(size - self._unit) < 1e-9)
        menu.popup(self.button.mapToGlobal(self.button.rect().bottomLeft()))
