"""A card as it is painted, described and dragged, wherever it is shown.

- ``card_drag``: cards_mime, keys_in, card_files_in, picture_in, drag_cards, drag_sheet, sheet_in
- ``card_facts``: Facts
- ``card_metrics``: constants
- ``card_painter``: CardState, draw_card, tick_rect
- ``card_pictures``: CardPictures, reduced
- ``card_stamps``: CardStamps
- ``card_words``: describe, short_date, signed
- ``kept_images``: KeptImages
- ``stamps``: Stamps
- ``tiles``: Tile, CarePanel, words, fill, row, Measure
"""
