"""Charts of the open libraries: what fills them, and how their gaps are filled.

- ``chart_board``: ChartBoard, board_of
- ``chart_book``: ChartsRead, ChartBook, read_all, with_likely, chart_from_cards
- ``chart_order``: in_order_of_charts, in_chart_order, character_of
- ``gap_filling``: GapFilling, side_of, rows_of, regions_of, sheet_for
- ``likely_cards``: likely_cards, likeness
"""
