"""The command line: the same work without a window.

- ``app``: add_open, make_app, taken_over, version
- ``cards_found``: found, named, opened
- ``command_words``: OwnCommand, OwnGroup, speak
- ``file_thumbnail``: picture_in
- ``options``: Unit, metres_of, wish_of
- ``reshooter``: Reshooter, renderers
- ``talk``: Talk, command
- ``usage_words``: MistypedError, told_in_our_words, words_of
- ``wish``: Wish, library_over, wish_for
"""

from fox_hand.cli.app import NAME, make_app
from fox_hand.cli.wish import Wish

__all__ = ["NAME", "Wish", "make_app"]
