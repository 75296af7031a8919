"""Where a body's parts stand, 4 whole numbers. Revolution: first and one past the last frustum, likewise bounds;
mesh: root of its tree, then first and one past the last of its corners.
"""

FIRST, END, FIRST_GROUP, END_GROUP = 0, 1, 2, 3
ROOT = 0
FIRST_CORNER, END_CORNER = 1, 2
