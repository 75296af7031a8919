"""Bounds over some frusta on end, 7 numbers: lowest and highest y (m), squares of the narrowest and the widest r
(m2), how many rows further the next one is that has none of them, first and one past the last frustum to test (0 and
0: none).
"""

LOW, HIGH, NARROW, WIDE, SKIP, FIRST, END = 0, 1, 2, 3, 4, 5, 6
