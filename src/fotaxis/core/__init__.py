"""The rules and the computation: numpy, scipy, numba and the standard library only.

geometry -> optics -> sources -> camera -> placement -> prediction -> frames: each imports only those before it.
No I/O, no clock, no global random state. SI units and radians inside.
"""
