"""A rig as it is read from a file, ready to be posed: its limits, mirror table and bind pose.
Also what keeps values when a file was read again.

- ``bind_pose``: SkinBind, BindPose, bind_pose
- ``limit_table``: LimitTable
- ``locks_limits``: Lock, built_in, out_of_plane, within
- ``mirror_table``: MirrorTable
- ``rebind``: Values, values_of, with_values, merged
- ``rig``: SettingRules, PickerSpot, Naming, Rig
- ``swaps``: Swap, swaps_of, opacities_of
- ``views``: RigViews
"""
