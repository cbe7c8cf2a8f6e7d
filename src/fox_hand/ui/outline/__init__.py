"""The outline beside the cards: kept searches, and the sheets of all open libraries as a tree; and
the facets that narrow what is shown.

- ``facets_view``: FacetSpot, FacetsView
- ``keep_popup``: KeepPopup
- ``outline_drop``: Verdict, OutlineDrop
- ``outline_list``: OutlineList, same_search
- ``outline_paint``: OutlineLook, looks_like, arrow_rect, paint_outline_row, heading_button
- ``outline_panel``: OutlinePanel
- ``outline_rows``: RowKind, OutlineRow, OutlineContent, fold_key, outline_rows, said_of
- ``path_row``: PathRow, facets_button
- ``sheet_chooser``: SheetChooser
"""
