"""What is measured on the set without a picture.

incident: a meter held somewhere; path_losses: what stands in a light's way and what it takes; relief_contrast: how a relief shows.
"""
