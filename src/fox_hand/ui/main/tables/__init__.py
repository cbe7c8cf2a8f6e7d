"""What can be done in the window: one table of commands, parted by what they are about.

- ``command_table``: command_table
- ``figure_commands``: figure_commands, view_commands, frame_commands, capture_commands, acts
"""
