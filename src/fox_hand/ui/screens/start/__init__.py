"""The screen a start begins with.

- ``start_screen``: StartScreen, found
- ``first_start``: CrewPicture, FirstStart, FirstStep
- ``last_shot``: Portrait, LastShot
- ``recent_list``: RecentList, short_place, paint_portrait
- ``start_tile``: StartTile
"""
