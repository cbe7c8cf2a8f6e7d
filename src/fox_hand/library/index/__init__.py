"""What is listed of a library on this machine, and how it is searched: a cache that is made anew
from the files whenever it is in doubt.

- ``alike``: Alike, numbers_of, AlikeFinder
- ``card_columns``: Found, Named, Tags, Columns, read_columns, Names, named, tagged
- ``catalogue``: Sort, Grouping, Personal, Section, lies_in, Catalogue
- ``connections``: Readers
- ``facets``: FacetValue, Facet, count_values, facets_of, chosen_values
- ``index``: IndexedFile, NoRoomError, IndexDamagedError, Index, elsewhere
- ``index_rows``: storable, as_named, stamp_of, row_of
- ``index_schema``: constants
- ``index_shapes``: Shape
- ``narrowing``: masks_of, changed_within, changed_by_others, fits, plain
- ``picture_cache``: PictureCache
- ``query``: FitFilter, NamedFilter, Query, words_of, Piece, pieces_of, parse, unknown_filters,
  filter_values, with_filter
- ``scan``: Changes, Folder, walk, scan, look_at
- ``sheet_tree``: SheetNode, with_those_above, tree_order, sheet_tree, tell_new
- ``spelling``: nearest_words
"""
