"""The command line: the same work without a window."""

from fox_hand.cli.app import NAME, make_app
from fox_hand.cli.wish import Wish

__all__ = ["NAME", "Wish", "make_app"]
