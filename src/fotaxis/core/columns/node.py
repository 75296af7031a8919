"""A place on a card or sheet that receives light: face, u and v (-1..1), cell."""

FACE, U, V, CELL = 0, 1, 2, 3
