"""What the lens makes of the scene, on linear layers.

through_lens: all of it in order; defocus, discs: circles of confusion; veiling_glare; haze_field, single_scattering: haze.
"""
