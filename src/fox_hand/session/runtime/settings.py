"""Preferences and what the window remembers: one small JSON file in the XDG config folder."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import decode_json, wrong_with
from fox_hand.base.files.inputs import TEXT, read_file
from fox_hand.base.files.versions import upgrade
from fox_hand.base.language import tr
from fox_hand.base.places import Places
from fox_hand.session.runtime.shared_file import SharedFile, changed_fields

VERSION = 1


class ScreenSizes(msgspec.Struct):
    """How the window was when it was closed on some screens; see :class:`Settings`."""

    window: str = ""
    figure_width: int = 232
    sheets_width: int = 348
    strip_height: int = 0


class Settings(msgspec.Struct):
    """Everything that is remembered between two starts.

    ``window`` is the toolkit's own geometry in base64; the other lengths are pixels at 100 %.
    ``screens`` has the same for every set of screens the window was closed on, by their sizes.
    """

    version: int = VERSION
    author: str = ""
    licence: str = ""
    library: str = ""  # written by earlier versions, which knew one; now in ``libraries``
    libraries: list[str] = []
    target: str = ""
    recent: list[str] = []
    stage: str = "desk"
    window: str = ""
    figure_width: int = 232
    sheets_width: int = 348
    figure_hidden: bool = False
    sheets_hidden: bool = False
    sheets_left: bool = False
    card_size: int = 68
    card_labels: bool = True
    handles: bool = True
    ghost: bool = True
    symmetric: bool = False
    lens: bool = False
    card_sort: str = "name"
    card_group: str = "sheet"
    closed_sections: list[str] = []
    outline: bool | None = None  # whether it is shown; None for where there are many sheets
    outline_width: int = 208
    outline_folds: dict[str, bool] = {}
    facets: bool = False
    cleared_sheets: list[str] = []  # what other cards of these left goes first
    key_cards: bool | None = None  # whether cards set keys; None where nothing was said
    auto_key: bool = True
    onion: bool = False
    clear_ground: bool = False  # nothing under and behind the figures
    flat_shadow: bool = False  # also drawings stand on a ground that shows it
    shot: str = ""  # the shot that was open last
    recent_shots: list[str] = []
    strip_height: int = 0
    theme: str = "dusk"  # or "paper", or "desktop" for what the desktop says
    stronger: bool = False  # colours with more contrast
    language: str = "desktop"  # or "en", "de"; read by itself before anything is said
    interface: int = 100  # size of everything, percent, on top of the screen's own scaling
    interface_before: int = 0  # the size before a restart for another, or for words; 0 after it
    control_names: str = "spoken"  # or "rig"
    new_rate: float = 24.0  # frames a second of new projects
    new_unit: str = "ask"  # of files that do not say theirs: "ask", or one of the units
    card_style: str = "shaded"  # of pictures of new cards
    card_pictures: str = "large"  # 320 and 640 px; or "small", 320 only
    card_ground: bool = True  # whether the ground is in them
    undo_steps: int = 500
    undo_megabytes: int = 32
    write_down: float = 0.8  # seconds after the last change until work is written down
    opens: str = "start"  # the screen that asks, or "last" for what was open last
    drawing: str = "fine"  # or "plain", for slow machines
    keys: dict[str, list[str]] = {}  # commands whose keys are others than ours
    screens: dict[str, ScreenSizes] = {}


def read_settings(places: Places) -> tuple[Settings, str | None]:
    """The settings, and a sentence if the file could not be used. A damaged or newer file is put
    aside under another name before a new one is written, so nothing in it is lost."""
    path = settings_path(places)
    try:
        raw: Any = decode_json(read_file(path, TEXT), object)
        if not isinstance(raw, dict):
            raise FoxHandError("settings.damaged", tr("It is not a settings file."))
        document = upgrade(raw, current=VERSION, steps={}, what=tr("settings file"))
        return msgspec.convert(document, Settings), None
    except FileNotFoundError:
        return Settings(), None
    except (OSError, ValueError, FoxHandError) as error:
        why = error.happened.rstrip(".") if isinstance(error, FoxHandError) else wrong_with(error)
        aside = path.with_suffix(".unreadable.json")
        try:
            path.replace(aside)
        except OSError:
            aside = path
        return Settings(), tr(
            "Your settings could not be read ({why}). They are kept as {aside}.",
            why=why,
            aside=aside,
        )


def settings_file(places: Places) -> SharedFile[Settings]:
    """The file, which several windows of one person may keep; the window's own shape and the
    like are as the last one that changed them left them."""
    return SharedFile(settings_path(places), Settings, changed_fields)


def settings_path(places: Places) -> Path:
    return places.config / "settings.json"
