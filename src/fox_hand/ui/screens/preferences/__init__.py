"""The screen of preferences.

- ``preferences_screen``: PageEntry, PageList, PreferencesScreen
- ``page``: PreferencePage, thin_line
- ``simple_pages``: YouPage, LookPage, StagePage, ShotsPage
- ``libraries_page``: LibraryRow, LibrariesPage
- ``theme_tiles``: ThemeTile, ThemeTiles, paint_small
- ``keys_page``: KeysPage
- ``key_list``: KeyList
- ``key_rows``: KeyFilter, KeyRow, words_of, back_to, rows_of
- ``key_editor``: KeyField, KeyEditor
"""
