"""The screens that take the place of the columns: which there are, and opening them.

- ``open_screens``: Screens, marked_words
- ``screen_set``: ScreenSet
"""
