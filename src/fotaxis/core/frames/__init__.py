"""Reading pictures, predicted or photographed.

line: brightness along a line and the highlights on it; black: is the black frame black; clipping: what is lost.
"""
