"""How bright a light's face is from place to place, 7 numbers: kind of gradient (0 even, 1 core, 2 ramp), stops lost
at the edge, 1 when it has a beam, depth of wrinkles, half width and height they count from (m), 1 + row of its gate
(0: none).
"""

KIND, STOPS, BEAM, WRINKLES, HALF_WIDTH, HALF_HEIGHT, GATE = 0, 1, 2, 3, 4, 5, 6
