"""How light meets surfaces and travels.

fresnel: reflectance; illuminance: closed forms for lit surfaces; still: the set that stands still, as kernels read it.
trace: camera rays to records; relight: records to one picture per light; shading: light on matte surfaces.
tablelight: light thrown up by the table; lightnodes, fannodes: light at a few places, spread to many.
material, catalogue: what things are made of; lobes: rough gloss; relief: fine slopes.
"""
