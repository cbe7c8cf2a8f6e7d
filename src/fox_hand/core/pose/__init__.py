"""Poses: what a card holds of a character, put on, blended, added, mirrored and compared.
Also goals and joints of limbs that are made to match.

- ``additive``: layer
- ``blend``: blend_scale, blend
- ``difference``: Difference, difference
- ``flat_mirror``: aside_rows, is_whole, turned_over, exchanged
- ``ik_fk_blend``: IkFkBlend
- ``ik_fk_matching``: joints_from_goal, goal_from_joints
- ``mirror``: mirrored_settings, mirror, partners_of
- ``pad``: shares_of_pad, pad_corners
- ``placing``: frame_of, put, with_setting
- ``pose``: RestFrame, Held, Pose, ChannelFilter, rests_otherwise, take, shown_euler, rest_frame,
  BoundPose, bind, world_rotation
- ``sides``: Sides, other_side, mirrored, sided, bound_of, choice_of_bound, partner_row
- ``similarity``: Numbers, Table, likeness
- ``weighted_blend``: mix
"""
