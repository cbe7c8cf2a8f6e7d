"""A pose or motion of one character for another: alignment of rest poses, names that mean the
same, what found no place.

- ``goals``: Relation, place_goals, limb_of
- ``name_match``: MatchSource, Rule, Rules, Match, match_names
- ``renaming``: renamed, renamed_clip
- ``rest_alignment``: Stance, still, stance_of, hung
- ``retarget``: Landing, FitOptions, Landed, Fitted, fit
- ``unmatched``: not_landing
"""
