"""What a person chose takes effect in the window.

- ``keep_size``: KeepSize
- ``key_exchange``: KeyExchange, changes
- ``preference_effects``: PreferenceEffects, tokens_for
- ``start_work``: StartWork, ShotPortraits, jpeg_of
"""
