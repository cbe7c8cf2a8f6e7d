"""The drawing of the figure, selection sets and channels: choose what is posed.
The panel at the left.

- ``channel_list``: ChannelList, typed_value
- ``channel_paint``: RowLook, reset_rect, lock_rect, value_rect, bar_rect, number, paint_row
- ``close_ups``: parts_of
- ``figure_dots``: Dot, paint_dot
- ``figure_drawing``: Zone, FigureDrawing, zone_rows, zone_word, drawing_view, is_long, apart,
  lowered_arms, drawing_from
- ``figure_panel``: FigurePanel
- ``figure_view``: FigureView
- ``heard_controls``: heard_control, heard_channels
- ``limb_bar``: LimbBar
- ``sets_row``: sets_of, SetsRow
"""
