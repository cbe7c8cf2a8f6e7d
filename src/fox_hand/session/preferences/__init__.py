"""What people choose for themselves.

- ``key_file``: KeyFile, write_keys, read_keys, json_schema
- ``preferences``: Allowed, Preferences, shipped, checked, mended, json_schema
"""
