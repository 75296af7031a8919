"""Typed page models and server-made drawings; templates hold no arithmetic.

bench: the state of one shot's page; drawing: floor and side as SVG; frames, sheet: their pages.
"""
