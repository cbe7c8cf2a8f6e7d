"""About, details for a report, and the keys.

- ``about``: AboutSheet, copy_text
- ``help``: Help
- ``shortcuts``: ShortcutsSheet, KeyLine, lines_of, in_columns
"""
