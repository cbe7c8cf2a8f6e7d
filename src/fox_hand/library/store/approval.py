"""Approved cards: who may approve them, and what cannot be done to them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
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
        who = tr(" by {by}", by=by) if by else ""
        names = tr(" or ").join(read_library_file(self._folder).approvers)
        return FoxHandError(
            "card.locked",
            tr("{name} is approved{who} and locked.", name=name, who=who),
            tr("It is untouched."),
            tr("Unlock it first, or store a variant.")
            if self.may()
            else tr("Ask {names} to unlock it.", names=names),
        )

    def not_yours(self, what: str) -> FoxHandError:
        """What to say to somebody who may not approve."""
        file = read_library_file(self._folder)
        names = tr(" or ").join(file.approvers)
        return FoxHandError(
            "approve.not_yours",
            tr("Only {names} may {what} {name}.", names=names, what=what, name=file.name),
            tr("Nothing was changed."),
            tr("Ask {names}.", names=names),
        )
