"""The window: it lays the parts out, connects them, and opens what is asked for.

- ``card_controller``: CardController
- ``card_work``: CardWork
- ``cast_tabs``: CastTab, CastTabs
- ``columns``: WindowColumns
- ``command_table``: command_table
- ``focus_order``: FocusOrder, WayBack
- ``header``: Mark, SearchField, Header
- ``home``: Home
- ``library_menus``: card_menu, ask_control_names, ask_name, ask_tags, approve, sheet_menu,
  ask_sheet, library_menu, ask_new_library, ask_library, order_menu, toggle_labels, filter_menu
- ``menus``: main_menu, project_menu, member_menu, ask_author
- ``open_screens``: Screens, marked_words
- ``overlays``: Overlays, BoardsStep
- ``places_to_go``: show_finder, findables, go_to_sheet
- ``shot_controller``: ShotController
- ``strip_menu``: strip_menu
- ``timeline_area``: TimelineArea
- ``window``: Window
- ``window_keys``: show_keys, window_keys, tell_keys, go_back
"""
