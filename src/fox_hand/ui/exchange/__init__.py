"""What comes in and goes out: characters, shots, libraries, motion, pictures, packs.
Read and written in jobs.

- ``export_menu``: ExportMenu
- ``opening``: Opener
- ``pack_dialog``: PackDialog
- ``shot_opening``: ShotOpener
- ``work_bar``: WorkBar
"""
