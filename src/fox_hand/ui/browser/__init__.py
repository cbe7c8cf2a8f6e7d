"""The sheets: sections of cards, search, ticks, index, renaming and tags.

- ``card_choice``: CardChoice
- ``moving_card``: MovingCard
- ``outline_side``: OutlineSide
- ``rename_popup``: RenamePopup
- ``sheet_layout``: SectionBox, fold_name, SheetLayout, lay_out_sheets
- ``sheets_bar``: SizeSlider, Chips, TickedBar
- ``sheets_drop``: SheetsDrop
- ``sheets_head``: SheetsHead, PartsRow, below
- ``sheets_input``: SheetsInput
- ``sheets_paint``: heading_top, paint_headings, short_path, index_tabs, tab_in_view, paint_index,
  paint_skeletons, paint_empty, paint_empty_cell, paint_drop
- ``sheets_painter``: Marks, SheetsPainter, card_tip
- ``sheets_panel``: SheetsPanel
- ``sheets_parts``: heard_sheets, card_part_key
- ``sheets_view``: SheetsView
- ``sheets_words``: said_waiting, why_empty, libraries_word
- ``tag_popup``: TagPopup
"""
