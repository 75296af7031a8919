"""A zone on a body, 12 numbers: body, face (static_scene.AROUND or 0 to 5), middle and half width across (azimuth in
radians, or metres), middle and half height (m), skin, 1 for an ellipse; row of its picture (-1: none),
1 where it is only what the picture covers, skins of its foil and varnish.
"""

BODY, FACE, ACROSS, HALF_WIDTH, HEIGHT, HALF_HEIGHT, SKIN, ELLIPSE = 0, 1, 2, 3, 4, 5, 6, 7
PICTURE, CUT, FOIL, VARNISH = 8, 9, 10, 11
COUNT = 12
