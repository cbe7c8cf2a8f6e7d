"""Charts of the open libraries: what fills them, and how their gaps are filled.

- ``x``: constants
"""
