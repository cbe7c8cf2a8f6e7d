"""The one kind of error that is meant for a person's eyes."""

from __future__ import annotations


class FoxHandError(Exception):
    """Something went wrong that the person at the machine should know about.

    Args:
        code: stable name for logs and tests, such as ``card.truncated``.
        happened: one sentence on what happened.
        kept: what was kept or left untouched; may be empty.
        todo: what the person can do now; may be empty.
        detail: what a programmer wants to know, for the log; never shown by itself.
    """

    def __init__(
        self, code: str, happened: str, kept: str = "", todo: str = "", detail: str = ""
    ) -> None:
        super().__init__(happened)
        self.code = code
        self.happened = happened
        self.kept = kept
        self.todo = todo
        self.detail = detail

    def sentence(self) -> str:
        """The whole message: what happened, what was kept, what to do."""
        return " ".join(part for part in (self.happened, self.kept, self.todo) if part)
