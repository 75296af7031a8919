"""A ray that is still to be followed, 28 numbers: origin (m), direction, R, G, B weight, medium, events so far, kept
segments that lead to it, product it is in or on, and from STATE on how it is polarised.
"""

OX, OY, OZ = 0, 1, 2
DX, DY, DZ = 3, 4, 5
RED, GREEN, BLUE = 6, 7, 8
MEDIUM, EVENT, LEVEL, PRODUCT, STATE = 9, 10, 11, 12, 13
