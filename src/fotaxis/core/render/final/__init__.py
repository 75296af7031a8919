"""The picture for a hand at rest.

final_render: fine light, edges sampled again; caustics, refracted_rays: refractions of glass on the table.
"""
