"""A place on a face that stands for its share of it: u and v, -1..1, luminance relative to the middle of the face."""

U, V, LUMINANCE = 0, 1, 2
