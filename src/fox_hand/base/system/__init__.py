"""The machine we run on: its clock, memory and processes, its log, and its desktop.

- ``clock``: now_at, written
- ``desktop_files``: files_for, pictured, quoted
- ``desktop_install``: DesktopFiles, install, remove
- ``details``: details, facts, licences, version_of
- ``log``: LogFiles, discreet, interpreter, note_fault, say_more, start_log, talkative, words_of
- ``man_page``: man_page
- ``memory``: give_back_large_blocks
- ``processes``: Writer, this_program
"""
