"""Shapes and how a ray meets them.

profile: the measured outline of a turned solid, checked and refined; revolution: ray against that solid.
facing: where a flat thing stands and looks; flat: ray against rectangles and discs.
"""
