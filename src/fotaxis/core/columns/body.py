"""A body, 21 numbers: origin (m), its own x, y, z axes in the world, kind, 1 when it stands upright and unturned, 1
when it has zones, the product it belongs to, 1 for a boundary between clear media, half width, height and depth of a
box (m; 0: none).
"""

X, Y, Z = 0, 1, 2
XX, XY, XZ = 3, 4, 5
YX, YY, YZ = 6, 7, 8
ZX, ZY, ZZ = 9, 10, 11
KIND, UPRIGHT, ZONED = 12, 13, 14
PRODUCT, CLEAR, HALF = 16, 17, 18
COUNT = 21
