"""A character on the stage: its file, how it stands, its keys, its selection and its channels.
Also who else stands there, and what is written down of them.

- ``animation``: Animation, Keyed, recorded, below_blocks
- ``cast``: Absent, file_mark, Cast
- ``channel_rows``: ChannelRow, lock_of, rows_of, with_row, at_rest_row
- ``channels``: ChannelRef, channels_of, with_value, turned_about_own_axis, moved_in_world,
  turned_in_world, at_rest
- ``depends``: settings_behind, offered
- ``figure``: Figure, Moment, PoseStep, KeyStep, pose_step, Edit, ChangeStep
- ``frame_name``: FrameName
- ``gathering``: Arrival, gather, arrived
- ``kept_views``: view_step
- ``playhead``: Playhead
- ``pose_conversion``: state_of, choice_of, mirrored_pose, mirrored_camera, side_after
- ``rig_files``: keep_unit, keep_rest
- ``sample_cache``: SampleCache
- ``selection``: Selection, region_rows, other_side, both_sides
- ``snapshot``: KeptLock, KeptMember, KeptBoard, KeptBackdrop, KeptCast, cast_path, kept_member,
  wake, write_cast, read_cast
- ``snapshot_keys``: KeptOrigin, KeptTime, KeptClip, KeptBlock, kept_origins, keys_from,
  kept_blocks, blocks_from, kept_time, wake_time
"""
