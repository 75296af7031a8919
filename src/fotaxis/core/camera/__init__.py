"""The camera: where it looks, what it lets through, what the file will say.

view: field of view and rays; exposure: from light to output level; lens: depth of field; scales: nominal names.
"""
