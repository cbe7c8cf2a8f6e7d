"""A card is put on: fitted to the figure, mixed, previewed, kept or put back.

- ``application``: Part, Way, How, Weights, Application, touched_parts
- ``card_origin``: origin_of, how_of, base_of, is_stale, settled
- ``comparing``: DifferingPart, Compared, Row, of_card, of_clip, of_figure, Comparison
- ``fit_draft``: FitDraft
- ``fit_result``: FitRow, foreign, Told, Asked, FitResult
- ``mix``: Fit, fit_of, Sheets, Mixed, Mix, reach_of
- ``mix_commands``: MixCommands
- ``preparation``: Again, ReadyAgain, Preparation, prepared, mixed
- ``preview``: Preview
"""
