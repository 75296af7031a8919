"""The picture for a hand at rest.

final_render: fine light, edges sampled again; edges, slipped_through: which pixels need more samples; caustics, refracted_rays:
refractions of glass on the table.
"""
