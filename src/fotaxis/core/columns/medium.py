"""A clear medium, 4 numbers: refractive index, absorption per metre in R, G, B."""

INDEX, RED, GREEN, BLUE = 0, 1, 2, 3
ABSORPTION = RED
