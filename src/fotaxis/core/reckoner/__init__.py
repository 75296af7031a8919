"""The arithmetic of the set: one file per calculation under `calculations`, listed once there.

unit, camera_units, units: how quantities are read and written; quantity, calculation: what one is made of; answer, asked: one
question answered; pictures: what is drawn beside it; roots: unknowns without a closed form.  Standard library only, so that it also
runs in a browser.
"""
