"""A card being put on: the mix bar, its pad, and the cards at hand.

- ``card_looking``: CardLooking
- ``hotbar``: HandCard, Hotbar
- ``mix_bar``: CardThumb, MixBar
- ``mix_choices``: RegionsPopup, MixChoices
- ``mix_pad``: MixPad, WeightSlider, MixWeights
- ``pose_clipboard``: PoseClipboard
"""
