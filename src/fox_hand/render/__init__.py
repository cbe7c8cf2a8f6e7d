"""Draws figures without a window: one path for the stage and for the pictures of cards."""
