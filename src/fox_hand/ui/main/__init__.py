"""The window: it lays the parts out, connects them, and opens what is asked for.

- ``card_home``: CardHome
- ``card_work``: CardWork
- ``cast_tabs``: CastTab, CastTabs
- ``command_table``: command_table
- ``export_menu``: ExportMenu
- ``header``: Mark, SearchField, Header
- ``home``: Home
- ``library_menus``: card_menu, ask_control_names, ask_name, ask_tags, approve, sheet_menu,
  ask_sheet, library_menu, ask_new_library, ask_library, order_menu, toggle_labels, filter_menu
- ``menus``: main_menu, project_menu, member_menu, ask_author
- ``opening``: Opener
- ``pack_dialog``: PackDialog
- ``places_to_go``: findables, go_to_sheet
- ``pose_home``: PoseHome
- ``shot_home``: ShotHome
- ``shot_opening``: ShotOpener
- ``strip_menu``: strip_menu, outdated, update
- ``window``: Window
- ``work_bar``: WorkBar
"""
