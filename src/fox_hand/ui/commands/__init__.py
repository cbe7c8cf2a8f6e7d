"""Commands as one table, and the finder that shows them: type part of a word, see the key, run it.

- ``actions``: Where, always, Command, Actions, run
- ``finder``: HitModel, Finder
- ``finder_rows``: RowDelegate
- ``finding``: Findable, FoundWord, find, folded, grouped
- ``own_keys``: overlap, as_written, has_key, with_own_keys
"""
