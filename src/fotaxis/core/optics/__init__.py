"""How light meets surfaces and travels.

fresnel: reflectance; illuminance: closed forms for lit surfaces; still: the set that stands still, as kernels read it.
surface: what a surface does at one place; paths: the records; trace: camera rays to paths; relight: paths to one picture
per light; infield: what the camera may see; shading, glosslight: light on matte surfaces and blurred mirrors.
tablelight: light thrown up by the table; reshading, rethrowing: what a drag keeps of both; lightnodes, fannodes: light at a few
places, spread to many.
material, catalogue: what things are made of; lobes: rough gloss; relief: fine slopes.
"""
