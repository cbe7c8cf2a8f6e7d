"""What a person chose takes effect in the window.

- ``drop_hint``: DropHint, words_for
- ``help_pages``: page_for, show_manual, show_news
- ``keep_size``: KeepSize
- ``key_exchange``: KeyExchange, changes
- ``preference_effects``: PreferenceEffects
- ``start_work``: StartWork, ShotPortraits, jpeg_of
- ``things_coming``: Coming, coming, take, show_card, library_over
"""
