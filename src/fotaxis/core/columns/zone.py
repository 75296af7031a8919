"""A zone on a body, 8 numbers: body, face (static_scene.AROUND or 0 to 5), middle and half width across (azimuth in
radians, or metres), middle and half height (m), skin, 1 for an ellipse.
"""

BODY, FACE, ACROSS, HALF_WIDTH, HEIGHT, HALF_HEIGHT, SKIN, ELLIPSE = 0, 1, 2, 3, 4, 5, 6, 7
