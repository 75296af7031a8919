"""A cell of the table: x and z of its middle (m), area (m2)."""

X, Z, AREA = 0, 1, 2
