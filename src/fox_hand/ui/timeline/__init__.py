"""The strip: keys, chips and clips over frames, playing, and what lies between two poses.

- ``between_bar``: BetweenBar
- ``clip_bar``: ClipBar
- ``frame_strip``: FrameStrip
- ``playing``: Playing
- ``range_popup``: RangePopup
- ``strip``: Drop, Strip
- ``strip_base``: Hit, StripBase
- ``strip_input``: Press, pressed, Scrub, StripPan, Overview, Move, Hold, Stretch, BlockPull,
  StripMarquee
- ``strip_keys``: strip_keys, nudge, go_to_key
- ``strip_labels``: paint_labels, paint_overview
- ``strip_paint``: ChipLook, key_group_rect, instance_rect, drawn_key_groups, StripPainter,
  heat_line, flag
- ``strip_parts``: heard_strip
- ``strip_rows``: Content, LayerSpan, StripRow, RowBook, value_now
- ``strip_scale``: Scale
- ``strip_stamps``: KeyLook, KeyStamps
- ``strip_tools``: StripTools
"""
