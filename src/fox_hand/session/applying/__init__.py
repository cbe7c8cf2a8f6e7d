"""A card is put on: fitted to the figure, mixed, previewed, kept or put back.

- ``application``: Part, Way, How, Weights, Putting, touched_parts
- ``comparing``: Kind, Compared, Row, of_card, of_figure, Comparison
- ``fit_draft``: FitDraft
- ``fit_result``: FitRow, foreign, roles_of, Told, Asked, FitOutcome
- ``mix``: Fit, fit_of, Sheets, Mixed, Mix, reach_of
- ``mix_commands``: Again, Mixing
- ``preparation``: Fits, mixed
- ``preview``: Peek
"""
