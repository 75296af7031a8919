"""Shapes and how a ray meets them.

profile, revolution: outlines and solids of revolution; mesh: triangles; planar: flat things and balls; solids: shapes a tape
describes; vessel: the inside of a glass; orientation: which way a flat thing looks; rays: what kernels hand each other.
"""
