"""What means the same on two characters: names of controls and of settings, and what has no
partner.

- ``name_match``: MatchSource, Rule, Rules, Match, match_names, Denied, roles_on, match_by_kind
- ``renaming``: renamed, renamed_clip
- ``setting_match``: SettingMatch, match_settings
- ``unmatched``: not_landing
"""
