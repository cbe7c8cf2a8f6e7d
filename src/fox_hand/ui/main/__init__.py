"""The window: it lays the parts out, connects them, and opens what is asked for.

- ``card_controller``: CardController
- ``cast_tabs``: CastTab, CastTabs
- ``columns``: WindowColumns
- ``focus_order``: FocusOrder, WayBack
- ``header``: Mark, Header
- ``home``: Home
- ``menus``: main_menu, project_menu, member_menu
- ``overlays``: Overlays, BoardsStep
- ``places_to_go``: show_finder, findables, go_to_sheet
- ``puppet_controller``: PuppetController
- ``search_field``: SearchField, FilterValues
- ``shot_controller``: ShotController
- ``stage_menu``: stage_menu
- ``strip_menu``: strip_menu
- ``timeline_area``: TimelineArea
- ``window``: Window, files_in
- ``window_keys``: show_keys, keys_of_parts, window_keys, tell_keys, go_back
"""
