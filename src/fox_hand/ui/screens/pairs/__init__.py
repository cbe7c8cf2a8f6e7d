"""Partners, sides, regions and roles of a rig, seen and corrected.

- ``pairs_screen``: PairsScreen
- ``pairs_table``: PairsTable
- ``pairs_trial``: TwoPictures, SettingRuleRows, TrialPanel
"""
