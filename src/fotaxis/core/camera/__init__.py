"""The camera: where it stands, what it lets through, what the file will say.

camera: place, field, focus; lens: thin-lens figures; filters: polariser, ND, mask, hood, glare; exposure: from light to output
level; nominal_scales: names of f-numbers and times; sensor: clipping and noise; haze: the air.
"""
