"""A place from which many directions are followed: a blurred mirror, or a matte surface inside glass. 20 numbers:
place (m), normal, axis t of its relief, direction to the viewer, skin, kind, medium, product, route so far, x and y
of the sample (inside glass: place on its own surface, m), smooth patch of its surface.
"""

X, Y, Z = 0, 1, 2
NX, NY, NZ = 3, 4, 5
TX, TY, TZ = 6, 7, 8
VX, VY, VZ = 9, 10, 11
SKIN, KIND, MEDIUM, PRODUCT, ROUTE, U, V = 12, 13, 14, 15, 16, 17, 18
NORMAL = slice(3, 6)
PLACE_ON_SURFACE = slice(17, 19)
PATCH = 19
COUNT = 20
