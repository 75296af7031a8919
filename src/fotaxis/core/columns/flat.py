"""A flat thing or a ball, 76 numbers: centre (m), axes across and up and front, half sizes (m), shape; then what the
ray test reads.

PLANE: front . centre (m). U_*: across over the half width, and times the centre; V_*: up likewise. Of a cut shape:
half sizes of the hole in its middle in the rectangle's own, AREA its share of the rectangle, and from OUTLINE on half
its width at 49 heights.
"""

X, Y, Z = 0, 1, 2
AX, AY, AZ = 3, 4, 5
UX, UY, UZ = 6, 7, 8
NX, NY, NZ = 9, 10, 11
HALF_WIDTH, HALF_HEIGHT, SHAPE, PLANE = 12, 13, 14, 15
U_X, U_Y, U_Z, U_0 = 16, 17, 18, 19
V_X, V_Y, V_Z, V_0 = 20, 21, 22, 23
HOLE_U, HOLE_V, AREA, OUTLINE = 24, 25, 26, 27
CENTRE = slice(0, 3)
ACROSS = slice(3, 6)
UP = slice(6, 9)
FRONT = slice(9, 12)
HALF_SIZES = slice(12, 14)
COUNT = 76
