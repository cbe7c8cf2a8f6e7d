"""Charts: lists of the shapes a character should have, and which of its cards are them.

- ``x``: constants
"""
