"""Where something must stand, in closed form.

mirror: one reflection; edge: the panel whose line runs down the edge of an upright glossy product.
"""
