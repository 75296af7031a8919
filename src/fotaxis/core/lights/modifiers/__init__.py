"""Kinds of lights, cards, sheets and nets, one file each; a new one is written like sheet.py and listed here.

kind: what every kind says of itself. MODIFIERS: all of them by their word in the shot file, in the order pages list them.
"""

from fotaxis.core.lights.modifiers import card, diffuser_disc, grid_head, head, net, panel, sheet, sun
from fotaxis.core.lights.modifiers.kind import ModifierKind

MODIFIERS: dict[str, ModifierKind] = {
    module.KIND.key: module.KIND for module in (panel, grid_head, head, sun, card, sheet, net, diffuser_disc)
}
