"""The libraries that are open: what they hold, what is asked of them, and every change of their
files as a command that can be undone. Also the trash, Care, packs and what others change meanwhile.

- ``card_commands``: CardCommands, what
- ``card_search``: CardSearch
- ``care_commands``: CareCommands, old_ones
- ``care_report``: Clash, Strange, TakenOut, Lost, Version, NearTwins, Report, look_through,
  versions_of
- ``file_jobs``: Outcome, FileJobs, FileStep
- ``kept_searches``: Kept, KeptSearches
- ``known_names``: known_tags, known_authors, known_characters, known_sheets
- ``library_reads``: LibraryReads
- ``open_libraries``: OpenLibraries
- ``open_library``: Reading, read_place, not_listed, remembered, with_sheets_of, in_order,
  OpenLibrary
- ``packing``: own_card, take_pack
- ``personal``: PersonalCards
- ``request``: Request, EmptyCell, Shown, Result
- ``sheet_commands``: SheetCommands
- ``storing``: Wanted, Storing
- ``watching``: Watching
"""
