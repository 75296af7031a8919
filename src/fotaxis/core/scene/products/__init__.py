"""Shapes of products, one file each; a new one is written like can.py and listed here.

shape: what every shape tells; turned, can, ball, box, tube, model, flacon, trainer, nothing: the shapes with their measures,
limits and words.
SHAPES: all of them by their word in the shot file, in the order pages list them.
"""

from fotaxis.core.scene.products import ball, box, can, flacon, model, nothing, trainer, tube, turned

SHAPES = {module.KIND.key: module.KIND for module in (turned, can, ball, box, tube, model, flacon, trainer, nothing)}
