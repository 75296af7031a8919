"""The rules and the computation: numpy, scipy, numba and the standard library only.

frames -> metering -> render -> placement -> scene -> camera, lights -> materials -> geometry: each imports only those after it.
No I/O, no clock, no global random state. SI units and radians inside. docs/architecture.md draws the rooms.
"""
