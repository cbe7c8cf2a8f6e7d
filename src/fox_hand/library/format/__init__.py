"""What is in the files: cards, sheets' lines, the library's own file, names of files.
Read by anybody; the schemas are published.

- ``card``: CardDrawing, Card, to_file, held_file, from_file, clip_of, controls_of
- ``carried_file``: TouchFile, ArmFile, CarriedFile, carried_file, carried_from
- ``container``: card_bytes, changed_bytes, read_card, read_drawing, damage, read_document,
  read_picture, read_motion
- ``entry``: Entry
- ``head``: Head, read_head, read_quickly
- ``library_file``: KeptSearch, LibraryFile, read_library_file, unreachable, write_library_file,
  toml_text, toml_list
- ``lines_file``: KeptLine, LineBook, kept_lines, lines_from
- ``name_map``: NameMap, map_path, read_map, all_maps, write_map
- ``names``: natural, file_stem, card_paths, same_name
- ``schema``: RestFile, HeldFile, CharacterFile, ApprovedFile, TakenFile, AnchorFile, FrameFile,
  ClipFile, DrawingFile, CardFile, json_schema
- ``thumb``: Square, cropped, halved, png, webp, moving, gif
"""
