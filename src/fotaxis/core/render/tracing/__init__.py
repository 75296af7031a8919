"""Camera rays through everything that stands still.

trace: samples and gather points; path_tree: one sample's tree of paths; encounters: what becomes of a ray at a surface;
view_frustum: what of the emitters the camera's field holds.
"""
