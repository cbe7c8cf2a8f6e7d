"""What every other room may use: errors, words, progress of long work, places on disk.

- ``animation_facts``: AnimationFacts
- ``early_settings``: early, early_settings
- ``errors``: FoxHandError
- ``key_words``: key_words, keys_in_words
- ``language``: day_text, decimal_mark, language, language_with, leftwards, locale_name, make_ready,
  number_text, shown_number, stretched, tr, tr_n, weekday_text, within
- ``manual``: ManualHit, ManualPage, found_in, manual_folder, pages
- ``motion_wish``: MotionWish
- ``places``: Places
- ``words``: hidden, plain_name, printable, some_of
- ``work``: Cancelled, Progress
"""
