"""Where a panel must stand, in closed form.

mirror: the geometry of one reflection on cylinders, spheres and planes.
Every solver and the traced picture must agree with these.
"""
