"""The shot on the stage and its file: opened, saved, written down all the time, met by others.
Also projects.

- ``backdrops``: placed, read_backdrop, Backdrops
- ``project``: Project, read_project, write_project, project_of
- ``recent``: PlaceState, RecentShot, portrait_path, known_of, looked_at, is_far, look, day_words
- ``seats``: Seats
- ``shot_file``: ShotFile, shot_bytes, read_shot, write_shot, content_id, json_schema
- ``shot_lock``: Holder, ShotLock
- ``shot_meeting``: mark_of, content_of, set_aside, told_aside, by, told_changed
- ``shots``: Opening, Shots, stage_key, open_shot, forget_unsaved, shot_of_now
"""
