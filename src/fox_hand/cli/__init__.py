"""The command line: the same work without a window."""

from fox_hand.cli.app import Wish, make_app

__all__ = ["Wish", "make_app"]
