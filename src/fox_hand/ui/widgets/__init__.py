"""Controls of our own that know nothing of poses: buttons, fields, rulers, popups, notices.
Used everywhere in the window.

- ``accessible_parts``: AccessibleAmount, AccessiblePart, PartsOwner, PartsInterface,
  install_accessible_parts, tell_current, tell_value
- ``amount_ruler``: AmountRuler
- ``buttons``: Kind, draw_focus, Button, Segments, Tick
- ``choice``: Choice
- ``deferred_update``: DeferredUpdate, once_after, next_turn
- ``event_filter``: EventFilter
- ``flow``: Flow, add_shown
- ``key_map``: LocalKey, KeyMap
- ``notice``: Notice
- ``painted_list``: PaintedRow, PaintedRows, PaintedList
- ``painted_slider``: PaintedSlider
- ``passing_menu``: passing_menu
- ``pinch``: follow_pinch
- ``popup``: Popup
- ``screen_parts``: back_to_stage, screen_top, undo_and_redo, screen_panel, scrolled
- ``screen_pixels``: in_pixels, follow_screen
- ``sign``: Sign, SearchSign
- ``whole_text``: with_cut_words
"""
