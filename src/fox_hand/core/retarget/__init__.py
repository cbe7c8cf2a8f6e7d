"""A pose or motion of one character for another: alignment of rest poses, names that mean the
same, what found no place.

- ``feet``: GroundHold, hold_feet
- ``figure_motion``: FigureMotion, role_nodes, leg_length, sole_level, rest_flesh, below
- ``goals``: Relation, place_goals, limb_of
- ``name_match``: MatchSource, Rule, Rules, Match, match_names
- ``pose_changes``: roles_of, world_changes, carried_turns
- ``renaming``: renamed, renamed_clip
- ``rest_alignment``: Stance, still, stance_of, hung
- ``retarget``: Landing, FitOptions, Landed, Fitted, fit
- ``soles``: Sole, soles_of, Stands, stands_of, runs
- ``standing``: rests_standing, standing, rested
- ``transfer``: FollowOptions, Transferred, follow
- ``turning``: turned, moved
- ``unmatched``: not_landing
"""
