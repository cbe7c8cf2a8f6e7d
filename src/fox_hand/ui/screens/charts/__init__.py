"""Charts against characters: what is there, what is missing, and the way to fill it.

- ``chart_grid``: ChartGrid, said_of
- ``chart_layout``: ChartLine, ChartHead, ChartLayout, lay_out_charts
- ``chart_legend``: ChartLegend
- ``chart_list``: ChartList
- ``chart_paint``: SlotLook, paint_head, paint_character, paint_round, paint_slot
- ``charts_screen``: ChartsScreen
- ``cut_dialog``: CutView, CutDialog
- ``missing_bar``: GapChips, MissingBar
- ``slot_panel``: SlotPicture, SmallCard, SlotPanel
- ``slot_popup``: SlotPopup, region_words
"""
