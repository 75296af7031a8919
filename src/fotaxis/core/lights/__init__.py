"""Lights and cards as they stand on the set.

fixtures: panels, heads, cards as values; heads, card_finishes, gobos, colour: what they are by name; power, calibration,
beam_patterns, gradients: how bright, which way and from where to where; sun; modifiers: one file per kind of thing.
"""
