"""What comes in and goes out: characters, shots, libraries, motion, pictures, packs.
Read and written in jobs.

- ``animations_dialog``: AnimationList, AnimationsDialog
- ``drawing_opening``: holds_drawings, DrawingOpener
- ``export_menu``: ExportMenu
- ``link_opening``: LinkOpener
- ``opening``: Opener
- ``pack_dialog``: PackDialog
- ``performance_opening``: PerformanceOpener
- ``shot_opening``: ShotOpener
- ``work_bar``: WorkBar
"""
