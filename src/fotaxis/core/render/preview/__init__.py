"""Pictures while something is dragged.

traced_scene: traced once, lit again and again; render_preview: lit and mixed in one walk; preview_cache: what one drag keeps from
picture to picture.
"""
