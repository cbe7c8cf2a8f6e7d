"""What is listed of a library on this machine, and how it is searched: a cache that is made anew
from the files whenever it is in doubt.

- ``alike``: Alike, numbers_of, AlikeFinder
- ``catalogue``: Sort, Grouping, Personal, Section, Catalogue
- ``connections``: Readers
- ``index``: IndexedFile, Columns, NoRoomError, IndexDamagedError, Index, elsewhere
- ``index_rows``: storable, as_named, stamp_of, row_of
- ``index_schema``: constants
- ``index_shapes``: Shape
- ``picture_cache``: PictureCache
- ``query``: FitFilter, Query, words_of, parse, unknown_filters
- ``scan``: Changes, Folder, walk, scan, look_at
- ``spelling``: nearest_words
"""
