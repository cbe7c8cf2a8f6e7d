"""What the window gets from outside: the way back from other threads, pictures, the desktop.
Handed in when it is built.

- ``bridge``: Bridge
- ``desktop``: show_file
- ``first_frame``: FirstFrame, screens_there, tokens_for
- ``paint_turn``: PaintTurn, painted_for
- ``picture_files``: decoded, frames_in, encoded
- ``picture_port``: Drawing
- ``screen_sizes``: take_sizes, keep_sizes
- ``services``: Demo, Services
- ``spoken``: speak, Leftwards
- ``support``: Support
"""
