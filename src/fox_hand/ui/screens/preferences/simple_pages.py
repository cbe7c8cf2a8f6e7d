"""Pages of preferences that are rows and nothing else."""

from __future__ import annotations

from PySide6.QtCore import Signal

from fox_hand.session.preferences.preferences import Preferences
from fox_hand.ui.screens.preferences.page import PreferencePage
from fox_hand.ui.screens.preferences.theme_tiles import ThemeTiles
from fox_hand.ui.theme.theme import Theme

SIZES = (80, 90, 100, 110, 125, 150, 175, 200)  # percent
RATES = ("12", "15", "24", "25", "30", "48", "50", "60")


class YouPage(PreferencePage):
    """How cards are signed."""

    def __init__(self, theme: Theme, preferences: Preferences) -> None:
        super().__init__(theme, preferences, "You and your cards", "what new cards say of you")
        self.author = self.add_text("author", "Your name", "New cards are signed with it.")
        self.licence = self.add_text("licence", "Licence", "Proposed for new cards.")
        self.add_title("Pictures of new cards")
        styles = (("shaded", "Shaded"), ("clay", "Clay"), ("outline", "Outline"))
        self.style_field = self.add_choice("card_style", "Drawn", styles)
        self.ground = self.add_tick("card_ground", "Background", "Paper behind the figure")
        self.add_title("In the sheets")
        self.labels = self.add_tick("card_labels", "Names", "Under the pictures")
        self.end()


class LookPage(PreferencePage):
    """Theme, size, names."""

    resize_asked = Signal(int)

    def __init__(self, theme: Theme, preferences: Preferences) -> None:
        super().__init__(theme, preferences, "Look", "taken at once")
        self.tiles = ThemeTiles(theme)
        self.tiles.chosen.connect(lambda name: self.choose("theme", name))
        self._shown["theme"] = (lambda: self.tiles.show_choice(preferences["theme"])), None
        self.add_row("Theme", self.tiles, name="theme")
        self.stronger = self.add_tick(
            "stronger", "For the eyes", "Stronger lines and text", "Words 7:1, edges 3:1."
        )
        self.add_title("Size")
        sizes = [(str(size), f"{size}") for size in SIZES]
        self.size_field = self.add_choice(
            "interface",
            "Size of everything, percent",
            sizes,
            "On top of what the desktop says. The window opens anew.",
        )
        self.add_title("Words")
        names = (("spoken", "Own words"), ("rig", "As in the rig"))
        self.names = self.add_choice("control_names", "Names of controls", names)
        self.end()

    def choose(self, name: str, value: object) -> None:
        if name != "interface":
            super().choose(name, value)
        elif isinstance(value, str | int) and int(value) != self.preferences[name]:
            self.resize_asked.emit(int(value))


class StagePage(PreferencePage):
    """How the stage is drawn, and what is remembered of work."""

    def __init__(self, theme: Theme, preferences: Preferences) -> None:
        super().__init__(theme, preferences, "Stage and work", "drawing, undo, what is kept")
        drawing = (("fine", "Fine"), ("plain", "Plain"))
        self.drawing = self.add_choice(
            "drawing", "Figures at rest", drawing, "Plain has no smoothed edges; for slow machines."
        )
        self.add_title("Undo")
        self.steps = self.add_number("undo_steps", "Steps that are kept", (10, 10_000, 10), "")
        self.memory = self.add_number(
            "undo_megabytes", "Memory they may hold", (4, 4096, 4), " MB", "The oldest go first."
        )
        self.add_title("Kept by itself")
        self.autosave = self.add_number(
            "write_down",
            "Work is written down after",
            (0.2, 60.0, 0.2),
            " s",
            "So long after the last change, beside the file; saving is something else.",
        )
        self.end()


class ShotsPage(PreferencePage):
    """New projects, and what a start opens."""

    def __init__(self, theme: Theme, preferences: Preferences) -> None:
        super().__init__(theme, preferences, "Shots", "new projects, and how a day begins")
        self.rate = self.add_number(
            "new_rate", "New projects run at", (1, 240, 1), " fps", "Those that are there stay."
        )
        opens = (("start", "The start screen"), ("last", "What was open last"))
        self.opens = self.add_choice("opens", "A start opens", opens)
        self.end()
