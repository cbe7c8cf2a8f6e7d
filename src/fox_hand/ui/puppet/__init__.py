"""Flat figures on the stage: their drawings, their views, what they stand before.

- ``ground_popup``: seen_of_stage, choose_backdrop, stand_backdrop, GroundPopup
"""
