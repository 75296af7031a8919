"""Small sets for the pages that explain what there is.

materials: one skin, glass or liquid; lights: one head, sheet, card or gel; light_entries: boxes, shapers and cut cards with words.
"""
