"""The manual inside the window.

- ``manual_screen``: ManualList, ManualScreen
- ``page_view``: PageView, without_sizes
"""
