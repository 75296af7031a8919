"""Where a panel must stand, in closed form.

mirror: the geometry of one reflection on cylinders, spheres and planes. edge: panels whose lines run down a product's edges.
Every solver and the traced picture must agree with these.
"""
