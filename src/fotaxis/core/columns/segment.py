"""A straight, free piece of a path, 11 numbers: origin (m), direction, length (m; inf where it leaves the set, 0 for a mere
link to a hit inside glass), R, G, B weight; of the first from a blurred mirror the directions per steradian, else 0.
"""

OX, OY, OZ = 0, 1, 2
DX, DY, DZ, LENGTH = 3, 4, 5, 6
RED, GREEN, BLUE, DENSITY = 7, 8, 9, 10
ORIGIN = slice(0, 3)
DIRECTION = slice(3, 6)
COLOUR = slice(7, 10)
COUNT = 11
