"""What a person chose takes effect in the window.

- ``help_pages``: page_for, show_manual, show_news
- ``keep_size``: KeepSize
- ``key_exchange``: KeyExchange, changes
- ``preference_effects``: PreferenceEffects, tokens_for
- ``start_work``: StartWork, ShotPortraits, jpeg_of
"""
