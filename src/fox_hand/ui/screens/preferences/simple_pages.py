"""Pages of preferences that are rows and nothing else."""

from __future__ import annotations

from PySide6.QtCore import Signal

from fox_hand.base.language import LANGUAGES, tr
from fox_hand.session.figures.rig_files import UNITS, unit_word
from fox_hand.session.preferences.preferences import Preferences
from fox_hand.ui.screens.preferences.page import PreferencePage
from fox_hand.ui.screens.preferences.theme_tiles import ThemeTiles
from fox_hand.ui.theme.theme import Theme

SIZES = (80, 90, 100, 110, 125, 150, 175, 200)  # percent
RATES = ("12", "15", "24", "25", "30", "48", "50", "60")


class YouPage(PreferencePage):
    """How cards are signed."""

    def __init__(self, theme: Theme, preferences: Preferences) -> None:
        super().__init__(
            theme, preferences, tr("You and your cards"), tr("what new cards say of you")
        )
        self.author = self.add_text("author", tr("Your name"), tr("New cards are signed with it."))
        self.licence = self.add_text("licence", tr("Licence"), tr("Proposed for new cards."))
        self.add_title(tr("Pictures of new cards"))
        styles = (("shaded", tr("Shaded")), ("clay", tr("Clay")), ("outline", tr("Outlined")))
        self.style_field = self.add_choice("card_style", tr("Drawn"), styles)
        self.ground = self.add_tick("card_ground", tr("Background"), tr("Paper behind the figure"))
        sizes = (("large", tr("320 and 640 px")), ("small", tr("320 px only")))
        self.sizes = self.add_choice(
            "card_pictures", tr("Size"), sizes, tr("Files are smaller without the large one.")
        )
        self.add_title(tr("In the sheets"))
        self.labels = self.add_tick("card_labels", tr("Names"), tr("Under the pictures"))
        self.end()


class LookPage(PreferencePage):
    """Theme, size, names."""

    resize_asked = Signal(int)

    def __init__(self, theme: Theme, preferences: Preferences) -> None:
        super().__init__(theme, preferences, tr("Look"), tr("taken at once"))
        self.tiles = ThemeTiles(theme)
        self.tiles.chosen.connect(lambda name: self.choose("theme", name))
        self._shown["theme"] = (lambda: self.tiles.show_choice(preferences["theme"])), None
        self.add_row(tr("Theme"), self.tiles, name="theme")
        self.stronger = self.add_tick(
            "stronger",
            tr("For the eyes"),
            tr("Stronger lines and text"),
            tr("Words 7:1, edges 3:1."),
        )
        self.add_title(tr("Size"))
        sizes = [(str(size), f"{size}") for size in SIZES]
        self.size_field = self.add_choice(
            "interface",
            tr("Size of everything, percent"),
            sizes,
            tr("On top of what the desktop says. The window opens anew."),
        )
        self.add_title(tr("Words"))
        languages = [("desktop", tr("As the desktop")), *LANGUAGES.items()]
        self.language = self.add_choice(
            "language", tr("Language"), languages, tr("The window opens anew.")
        )
        names = (("spoken", tr("Own words")), ("rig", tr("As in the rig")))
        self.names = self.add_choice("control_names", tr("Names of controls"), names)
        self.end()

    def choose(self, name: str, value: object) -> None:
        if name != "interface":
            super().choose(name, value)
        elif isinstance(value, str | int) and int(value) != self.preferences[name]:
            self.resize_asked.emit(int(value))


class StagePage(PreferencePage):
    """How the stage is drawn, and what is remembered of work."""

    def __init__(self, theme: Theme, preferences: Preferences) -> None:
        super().__init__(
            theme, preferences, tr("Stage and work"), tr("drawing, undo, what is kept")
        )
        drawing = (("fine", tr("Fine")), ("plain", tr("Plain")))
        self.drawing = self.add_choice(
            "drawing",
            tr("Figures at rest"),
            drawing,
            tr("Plain has no smoothed edges; for slow machines."),
        )
        self.add_title(tr("Undo"))
        self.steps = self.add_number("undo_steps", tr("Steps that are kept"), (10, 10_000, 10), "")
        self.memory = self.add_number(
            "undo_megabytes",
            tr("Memory they may hold"),
            (4, 4096, 4),
            " MB",
            tr("The oldest go first."),
        )
        self.add_title(tr("Kept by itself"))
        self.autosave = self.add_number(
            "write_down",
            tr("Work is written down after"),
            (0.2, 60.0, 0.2),
            " s",
            tr("So long after the last change, beside the file; saving is something else."),
        )
        self.end()


class ShotsPage(PreferencePage):
    """New projects, and what a start opens."""

    def __init__(self, theme: Theme, preferences: Preferences) -> None:
        super().__init__(theme, preferences, tr("Shots"), tr("new projects, and how a day begins"))
        self.rate = self.add_number(
            "new_rate",
            tr("New projects run at"),
            (1, 240, 1),
            " fps",
            tr("Those that are there stay."),
        )
        units = [("ask", tr("Ask each time")), *((name, unit_word(name)) for name in UNITS)]
        self.units = self.add_choice(
            "new_unit",
            tr("Figures that do not say their unit"),
            units,
            tr("Kept beside the file."),
        )
        opens = (("start", tr("The start screen")), ("last", tr("What was open last")))
        self.opens = self.add_choice("opens", tr("A start opens"), opens)
        self.end()
