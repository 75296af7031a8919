"""A place on a matte surface that a path met, 16 numbers: place (m), normal, R, G, B weight times reflectance,
surface times 8 plus variant, place on the surface (u, v; of a mesh: triangle, two corner weights), index of the coat,
kind, entry factor of the coat.

Kind GATHER: U is the row of its gather point. Kind INTERREFLECTION: SURFACE is 8 times (skin + 256 times the smooth patch).
"""

X, Y, Z = 0, 1, 2
NX, NY, NZ = 3, 4, 5
RED, GREEN, BLUE, SURFACE = 6, 7, 8, 9
U, V, COAT, KIND = 10, 11, 12, 13
W, ENTRY = 14, 15
NORMAL = slice(3, 6)
COLOUR = slice(6, 9)
PLACE_ON_SURFACE = slice(10, 12)
COUNT = 16
