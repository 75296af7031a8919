"""The camera: where it looks, what it lets through, what the file will say.

view: field of view and rays; exposure: from light to output level; lens: depth of field; scales: nominal names.
before_lens: filters, shades, glare; defocus: circles of confusion; sensor: its noise floor; air: haze.
"""
