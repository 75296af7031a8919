"""Reading pictures, predicted or photographed.

line_profile: brightness along a line; levels: levels in words; readings: named readings, one file per kind; black_frame, clipping,
difference: verdicts on frames; photograph: what a file says of its exposure.
"""
