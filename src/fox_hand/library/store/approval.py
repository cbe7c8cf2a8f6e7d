"""Approved cards: who may approve them, and what cannot be done to them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.library.format.head import read_head
from fox_hand.library.format.library_file import read_library_file


class Approval:
    """The rule of one library, as its file says it at the moment it is asked.

    Args:
        folder: the library's.
        by: who writes.
    """

    def __init__(self, folder: Path, by: Callable[[], str]) -> None:
        self._folder, self._by = folder, by

    def may(self) -> bool:
        """Whether who writes may approve and unlock cards here."""
        approvers = read_library_file(self._folder).approvers
        return not approvers or self._by() in approvers

    def check(self, path: Path) -> None:
        """Make sure that a card is not approved before it is moved, taken out or replaced.

        Raises:
            FoxHandError: ``card.locked``.
        """
        entry = read_head(path, "").entry
        if entry.locked:
            raise self.locked(entry.name, entry.approved_by)

    def locked(self, name: str, by: str) -> FoxHandError:
        """What to say of an approved card that would be changed."""
        who = f" by {by}" if by else ""
        names = " or ".join(read_library_file(self._folder).approvers)
        return FoxHandError(
            "card.locked",
            f"{name} is approved{who} and locked.",
            "It is untouched.",
            "Unlock it first, or store a variant." if self.may() else f"Ask {names} to unlock it.",
        )

    def not_yours(self, what: str) -> FoxHandError:
        """What to say to somebody who may not approve."""
        file = read_library_file(self._folder)
        names = " or ".join(file.approvers)
        return FoxHandError(
            "approve.not_yours",
            f"Only {names} may {what} {file.name}.",
            "Nothing was changed.",
            f"Ask {names}.",
        )
