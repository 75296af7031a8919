"""Lights and cards as they stand on the set.

power: stops below full on a head's real steps; calibration: how bright a face is at full power.
panel, head, card: the things themselves.
"""
