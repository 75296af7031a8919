"""Pictures of a plan: traced once, then lit and added up per light.

probe | final | preview | lens | passes | lighting | layers | shading | transport | grids | tracing | arrays | parallel: each imports
only those after it. preview: while something is dragged; final: at rest.
"""
