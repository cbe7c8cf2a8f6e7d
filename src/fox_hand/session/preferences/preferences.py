"""What people choose for themselves: checked, kept at once, and taken back step by step."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import msgspec
from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.published import published
from fox_hand.base.language import LANGUAGES, tr
from fox_hand.interchange.units import UNITS
from fox_hand.session.runtime.history import History
from fox_hand.session.runtime.settings import Settings


@dataclass(frozen=True)
class Allowed:
    """What a preference may be.

    Args:
        words: the values there are; empty for a number or for any text.
        lowest, highest: ends of a number.
    """

    words: tuple[str, ...] = ()
    lowest: float | None = None
    highest: float | None = None

    def takes(self, value: object) -> bool:
        """Whether a value is one of them."""
        if self.words:
            return value in self.words
        if self.lowest is not None and self.highest is not None:
            number = isinstance(value, int | float) and not isinstance(value, bool)
            return number and self.lowest <= value <= self.highest  # type: ignore[operator]  # it is a number
        return True


ALLOWED: Mapping[str, Allowed] = {
    "author": Allowed(),
    "licence": Allowed(),
    "libraries": Allowed(),
    "target": Allowed(),
    "theme": Allowed(("dusk", "paper", "desktop")),
    "stronger": Allowed(),
    "language": Allowed(("desktop", *LANGUAGES)),
    "interface": Allowed(lowest=80, highest=200),
    "control_names": Allowed(("spoken", "rig")),
    "new_rate": Allowed(lowest=1.0, highest=240.0),
    "new_unit": Allowed(("ask", *UNITS)),
    "card_style": Allowed(("shaded", "clay", "outline")),
    "card_pictures": Allowed(("large", "small")),
    "card_ground": Allowed(),
    "card_labels": Allowed(),
    "undo_steps": Allowed(lowest=10, highest=10_000),
    "undo_megabytes": Allowed(lowest=4, highest=4096),
    "write_down": Allowed(lowest=0.2, highest=60.0),
    "opens": Allowed(("start", "last")),
    "drawing": Allowed(("fine", "plain")),
    "keys": Allowed(),
}


@dataclass(frozen=True)
class _ChosenStep:
    """One change of one preference, for the history."""

    preferences: Preferences
    name: str
    before: Any
    after: Any

    @property
    def label(self) -> str:
        return tr("preference {name}", name=self.name)

    def undo(self) -> None:
        self.preferences.put(self.name, self.before)

    def redo(self) -> None:
        self.preferences.put(self.name, self.after)


class Preferences:
    """The choices of one person.

    Args:
        settings: where they stand.
        save: writes them down.
    """

    changed = Signal(str)  # the name of one that is otherwise now

    def __init__(self, settings: Settings, save: Callable[[], None]) -> None:
        self._settings, self._save = settings, save
        self.history = History()

    def __getitem__(self, name: str) -> Any:
        return getattr(self._settings, name)

    def is_ours(self, name: str) -> bool:
        """Whether one is as it is shipped."""
        return bool(self[name] == shipped(name))

    def set(self, name: str, value: object) -> None:
        """Choose; one undo step. What is chosen already changes nothing.

        Raises:
            FoxHandError: ``preference.refused`` for what it cannot be.
        """
        kept = checked(name, value)
        before = self[name]
        if kept == before:
            return
        self.put(name, kept)
        self.history.push(_ChosenStep(self, name, before, kept))

    def put(self, name: str, value: object) -> None:
        """The same without a step; for undo, and for what another part of the window chose."""
        if value != self[name]:
            setattr(self._settings, name, value)
            self._save()
            self.changed.emit(name)

    def begin(self) -> None:
        """The screen is opened: only what is done from now on is taken back."""
        self.history.clear()


def shipped(name: str) -> Any:
    """A preference as it is without anybody's choice."""
    return getattr(Settings(), name)


def checked(name: str, value: object) -> Any:
    """A value as it is kept.

    Raises:
        FoxHandError: ``preference.refused``.
    """
    kinds = {field.name: field.type for field in msgspec.structs.fields(Settings)}
    words, allowed = name.replace("_", " "), ALLOWED[name]
    why = tr("It is of another kind.")
    try:
        kept = msgspec.convert(value, kinds[name])
        if allowed.takes(kept):
            return kept
        why = tr(
            "It goes from {lowest} to {highest}.", lowest=allowed.lowest, highest=allowed.highest
        )
        if allowed.words:
            why = tr("It can be {names}.", names=", ".join(allowed.words))
    except msgspec.ValidationError:
        pass
    raise FoxHandError(
        "preference.refused",
        tr("The {words} cannot be {value!r}.", words=words, value=value),
        tr("It stays as it was."),
        why,
    )


def mended(settings: Settings) -> str | None:
    """Values that somebody wrote into the file and that cannot be are put back to ours, each by
    itself; a sentence that names them, None where there are none."""
    wrong = [name for name, one in ALLOWED.items() if not one.takes(getattr(settings, name))]
    for name in wrong:
        setattr(settings, name, shipped(name))
    if not wrong:
        return None
    names = ", ".join(name.replace("_", " ") for name in wrong)
    return tr(
        "Your settings file says something of {names} that cannot be. Those "
        "are as they were shipped; everything else is as you left it.",
        names=names,
    )


def json_schema() -> bytes:
    """The JSON Schema of the settings file."""
    return published(Settings, "Fox Hand settings")
