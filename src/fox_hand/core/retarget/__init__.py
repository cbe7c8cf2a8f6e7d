"""A pose or motion of one character for another: rest poses aligned, limbs, feet
and hands placed.

- ``arm_places``: Touch, ArmPlace, arm_places, hand_length, wrists_for, touches_of, laid_wrists
- ``carried``: Carried, carried_of, shown_on, reached
- ``feet``: GroundHold, hold_feet
- ``figure_motion``: FigureMotion, role_nodes, LegMeasure, leg_length, leg_measure, sole_level,
  rest_flesh, below
- ``goals``: Relation, place_goals, limb_of
- ``hands``: lay_hands, join_hands
- ``pose_changes``: roles_of, world_changes, carried_turns
- ``reach``: Reach, unit, turning
- ``rest_alignment``: Stance, still, stance_of, bone_ways, hung
- ``retarget``: Landing, FitOptions, Landed, Fitted, fit
- ``soles``: Sole, soles_of, Stands, stands_of, heights_of, runs
- ``stand_edits``: spans_of, with_spans, Worst, GroundFigures, ground_figures
- ``standing``: rests_standing, standing, rested
- ``transfer``: FollowOptions, Transferred, follow
- ``turning``: turned, moved
"""
