"""A plan as plain arrays for the kernels.

static_scene, pack_static_scene: what stands still; surface_hit: the spot where a ray meets it; emitters, pack_emitters, subdivide:
lights and cards; table_top: the table as a thing that throws light; receiver: a place that is lit; path_records: what tracing
leaves.
"""
