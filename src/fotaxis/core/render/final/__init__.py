"""The picture for a hand at rest.

final_render: what is done in which order; quality: how many samples; final_shading: fine light; sampling: pixels sampled again;
edges, slipped_through, depth_of_field: which need it; caustics, refracted_rays: refractions of glass on the table.
"""
