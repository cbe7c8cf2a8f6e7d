"""Motion and pictures that leave: motion files, frames, turntables, contact sheets.

- ``layers_export``: write_layers
- ``motion_export``: sampled, shot_motion, clip_motion, keep_what_is_open, write_motion, write_pose,
  pose_bytes
- ``picture_export``: PictureSequence, views, write_drawn
"""
