"""Files on disks and shares that never are half-written: atomic writing, new names, rights.
Everything a library writes goes through here.

- ``access``: Access, access_of, access_to, give, Contradiction, contradiction
- ``atomic``: keep_earlier, write_atomically, write_new, move_new, remove, rename_new, make_folder,
  flush_folder, what_to_do
- ``file_system``: is_remote
"""
