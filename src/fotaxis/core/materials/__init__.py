"""What surfaces and clear media are made of and do to light.

material: skins and media as values; catalogue: named ones; fresnel, ggx, bump, polarisation: the physics of a boundary;
bsdf: what a surface mirrors and scatters at one place.
"""
