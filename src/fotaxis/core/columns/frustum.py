"""A frustum of a turned body, 10 numbers: y and r at both ends (m), the outward normal (y, r) there, slope
(r1 - r0) / (y1 - y0) and 1 / (y1 - y0) (1/m); both 0 for a level one.
"""

Y0, R0, Y1, R1 = 0, 1, 2, 3
NY0, NR0, NY1, NR1 = 4, 5, 6, 7
SLOPE, INVERSE = 8, 9
