"""Care of a library: what needs a decision, and every way out.

- ``care_hands``: CareHands
- ``care_list``: CareList
- ``care_screen``: CareScreen
- ``care_sections``: clash_panel, amount, strange_panel, pairs_panel, lost_panel, taken_panel
- ``care_versions``: VersionsPanel
"""
