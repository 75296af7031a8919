"""Light at few places, read at many.

irradiance_grid: on surfaces; gather_grid: on blurred mirrors and inside glass, a few pixels apart; refinement: closer nodes where
light is steep.
"""
