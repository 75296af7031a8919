"""A node of a mesh's tree, 6 numbers: its lowest and highest corner (m)."""

LOW_X, LOW_Y, LOW_Z, HIGH_X, HIGH_Y, HIGH_Z = 0, 1, 2, 3, 4, 5
