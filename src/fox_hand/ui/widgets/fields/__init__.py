"""Fields that are typed into: numbers, and words that are there already.

- ``completing``: Completing, offer_below, clearable
- ``number_field``: NumberField
- ``typed_numbers``: typed_number, bent, plain
"""
