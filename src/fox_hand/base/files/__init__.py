"""Files of others and of ours: read with limits, pictures, versions, folders for the moment.

- ``archive``: TooManyMembersError, opened_archive, read_member, why_broken
- ``documents``: TooDeepError, check_depth, decode_json, decode_object, decode_toml, wrong_with
- ``inputs``: NotAFileError, TooLargeError, open_descriptor, open_file, read_file, read_text
- ``outputs``: keep_inputs, same_file
- ``pictures``: TooManyPixelsError, opened_picture
- ``published``: published
- ``scratch``: lasting_scratch, not_writable, scratch_folder, sweep
- ``versions``: upgrade
"""
