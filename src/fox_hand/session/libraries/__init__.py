"""The libraries that are open: what they hold, what is asked of them, and every change of their
files as a command that can be undone. Also the trash, Care, packs and what others change meanwhile.

- ``card_commands``: Filing
- ``care_commands``: Keeping, old_ones
- ``care_report``: Clash, Strange, TakenOut, Lost, Version, Pair, Report, look_through,
  versions_of
- ``file_jobs``: Outcome, Tidying, FileStep
- ``open_libraries``: Shelf
- ``open_library``: Reading, read_place, not_listed, remembered, with_sheets_of, in_order, Place
- ``packing``: own_card, take_pack
- ``personal``: PersonalCards
- ``request``: Request, Shown, Result
- ``storing``: Wanted, Storing
- ``watching``: Watching
"""
