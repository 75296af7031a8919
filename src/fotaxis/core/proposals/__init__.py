"""Where things must stand for what a picture must show, found by tracing the ways on from the set's own surfaces.

ways: what is mirrored where a line or a highlight is wished for; panel: the face it is the image of; space: all places it may stand.
survey, outlook: what those ways meet, and what a face would do; soft_sheet, label_light, dark_ground: each one kind of light;
whole: what the picture as a whole shows.
"""
