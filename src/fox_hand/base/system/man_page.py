"""The page for ``man``, in the macros of man(7)."""

from __future__ import annotations

from fox_hand import __version__

COMMANDS = (
    ("fox-hand", "Open the window, to go on where you left it."),
    ("fox-hand open FILE", "Open a character, shot, card, pack, project or library."),
    ("fox-hand demo", "Open the demo; nothing you do there can break it."),
    ("fox-hand render FILE -o PICTURE", "A picture of a character, a card or a shot."),
    ("fox-hand apply CARD FIGURE -o FILE", "Put a card on a character and write it as a file."),
    ("fox-hand library check FOLDER", "Look after a library: damaged files, conflicts, twins."),
    ("fox-hand puppet make DRAWINGS -o FILE", "Make a puppet of drawings."),
    ("fox-hand thumbnail FILE PICTURE", "The small picture of a card or pack."),
    ("fox-hand desktop install", "Menu entry, icons and kinds of files for this user."),
    ("fox-hand desktop remove", "Take them away again."),
)
FILES = (
    ("$XDG_CONFIG_HOME/fox-hand/settings.json", "Preferences, a line each."),
    ("$XDG_STATE_HOME/fox-hand", "Work that was not saved, and the log."),
    ("$XDG_DATA_HOME/fox-hand", "The copy of the demo, and the first library."),
    ("$XDG_CACHE_HOME/fox-hand", "What can be made again."),
)


def man_page() -> str:
    """The whole page."""
    lines = [
        f'.TH FOX-HAND 1 "" "Fox Hand {__version__}" "User Commands"',
        ".SH NAME",
        r"fox-hand \- keep poses of rigged characters as cards and put them back on",
        ".SH SYNOPSIS",
        ".B fox-hand",
        "[COMMAND] [ARGUMENTS]",
        ".SH DESCRIPTION",
        "Without a command the window opens.",
        "Commands work without a window too; each says with",
        r".B \-\-help",
        "what it takes.",
        ".SH COMMANDS",
        *_items(COMMANDS),
        ".SH FILES",
        *_items(FILES),
        ".SH EXIT STATUS",
        "0 done; 1 not done; 2 not understood; 3 done, but not all of it.",
    ]
    return "\n".join(lines) + "\n"


def _items(pairs: tuple[tuple[str, str], ...]) -> list[str]:
    found = []
    for name, text in pairs:
        found += [".TP", f".B {name.replace('-', chr(92) + '-')}", text]
    return found
