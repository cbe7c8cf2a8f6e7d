"""One module for each group of commands.

- ``capture_all``: add_capture_all, capture_all
- ``cards``: card_commands, schema, show
- ``chart_commands``: add, chart_commands, chart_sheet, check, ready, schema
- ``converting``: add_convert, convert
- ``demo``: colleague, demo_commands, share
- ``desktop_commands``: desktop_commands, install, own_program, own_share, remove,
  thumbnail
- ``library``: check, library_commands, list_cards, new, reindex, search
- ``library_work``: add_library_work, approve, move, pack, reshoot, tag, take_in
- ``link_commands``: adapter, link_commands, list_hosts, try_host
- ``motion_commands``: SideWord, add_motion_commands, apply, capture, read_one
- ``picture_commands``: add_picture_commands, render, sheet
- ``puppet_commands``: add, draft, make, puppet_commands, schema
- ``rig_commands``: init, inspect, rig_commands, schema
- ``shot_commands``: check_project, check_shots, project_commands, shot_commands
"""
