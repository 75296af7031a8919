"""The upright cylinder that holds a body, 5 numbers: where its axis stands, its radius, lowest and highest y (m)."""

X, Z, RADIUS, LOW, HIGH = 0, 1, 2, 3, 4
HEIGHTS = slice(3, 5)
