"""Named materials with what they are and how they photograph: skins, glasses, liquids, table tops.

Reflectances, roughnesses and colours per centimetre are common practice unless a source is named.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from fotaxis.core.materials.material import WATER_INDEX, WATER_LEFT, Medium, Metal, Relief, Skin
from fotaxis.core.values import Reflectance


@dataclass(frozen=True, slots=True, kw_only=True)
class Material:
    """A skin with a name and two sentences. kind: paper, metal, gloss, zone or sheet."""

    name: str
    group: str
    skin: Skin
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Clear:
    """A glass or liquid with a name and two sentences."""

    name: str
    group: str
    medium: Medium
    words: str


ALUMINIUM = Metal(n=(1.2528, 0.9543, 0.6576), k=(7.3797, 6.6744, 5.6409))
SILVER = Metal(n=(0.1278, 0.1252, 0.1403), k=(3.8129, 3.3314, 2.6043))
GOLD = Metal(n=(0.2048, 0.3551, 1.3816), k=(3.0334, 2.6982, 1.8286))
COPPER = Metal(n=(0.3188, 0.9656, 1.1574), k=(3.1047, 2.5776, 2.4530))
CHROME = Metal(n=(3.4810, 3.1082, 2.1108), k=(4.3600, 4.4244, 4.2935))
STEEL = Metal(n=(2.55, 2.40, 2.05), k=(3.55, 3.35, 2.95))
"""n and k at 611, 549 and 464 nm, the dominant wavelengths of the Rec. 709 primaries, linear between table rows.
Aluminium, silver, gold, copper: Palik (ed.), Handbook of Optical Constants of Solids, 1985; chromium: as tabulated for
evaporated films (Johnson & Christy 1974). Stainless steel: from memory."""


def _grey(value: float) -> Reflectance:
    return Reflectance.grey(value)


def _rgb(red: float, green: float, blue: float) -> Reflectance:
    return Reflectance(red=red, green=green, blue=blue)


def _tinted(metal: Metal, *tint: float) -> Metal:
    return replace(metal, tint=(tint[0], tint[1], tint[2]))


BLACK = _grey(0.0)

SKINS = (
    Material(name="paper matte", group="Paper and board", skin=Skin(reflectance=_rgb(0.78, 0.76, 0.72)),
             words="Answers to how much light arrives, not to what stands around. Any soft or hard light from the front works; it shows no mirror image."),
    Material(name="coated paper", group="Paper and board", skin=Skin(reflectance=_rgb(0.82, 0.81, 0.80), coat_index=1.5, roughness=0.42),
             words="A paper with a soft sheen of four per cent on top of its colour. Keep the label light out of the mirror direction or the ink goes grey."),
    Material(name="varnish spot", group="Paper and board", skin=Skin(reflectance=_rgb(0.62, 0.58, 0.50), coat_index=1.5),
             words="Paper under a hard gloss: it mirrors a panel sharply at four per cent. A card just beside the lens axis makes the varnish stand out from the matte around it."),
    Material(name="tax band", group="Paper and board", skin=Skin(reflectance=_rgb(0.55, 0.63, 0.58), through=0.06),
             words="Thin printed paper glued across the closure. Lit from behind it lets a little light through."),
    Material(name="linen card", group="Paper and board", skin=Skin(reflectance=_rgb(0.80, 0.78, 0.74), relief=Relief(kind="linen", period_m=9e-4, depth_m=9e-5)),
             words="Board with a woven relief a tenth of a millimetre deep. A hard light raking along it shows the weave; a frontal or soft one wipes it out."),
    Material(name="laid paper", group="Paper and board", skin=Skin(reflectance=_rgb(0.79, 0.76, 0.70), relief=Relief(kind="laid", period_m=1.2e-3, depth_m=8e-5)),
             words="Paper with fine ribs in one direction. Light across the ribs shows them, light along them does not."),
    Material(name="woven cloth", group="Paper and board", skin=Skin(reflectance=_rgb(0.46, 0.44, 0.40), relief=Relief(kind="linen", period_m=6e-4, depth_m=1.2e-4)),
             words="Cotton or linen of a middle weave, without gloss. A hard light raking along it shows its threads."),
    Material(name="felt board", group="Paper and board", skin=Skin(reflectance=_rgb(0.74, 0.73, 0.70), relief=Relief(kind="grain", period_m=1.6e-3, depth_m=1.1e-4)),
             words="Board with an irregular grain. It needs a raking light as linen does, but looks alike from every side."),
    Material(name="embossed field", group="Paper and board", skin=Skin(reflectance=_rgb(0.80, 0.78, 0.74), relief=Relief(kind="emboss", period_m=1.5e-3, depth_m=4e-4)),
             words="A field pressed up out of the board; only its rim catches light. Rake a hard light across it and keep the fill two stops down."),
    Material(name="debossed field", group="Paper and board", skin=Skin(reflectance=_rgb(0.80, 0.78, 0.74), relief=Relief(kind="emboss", period_m=1.5e-3, depth_m=-4e-4)),
             words="A field pressed into the board. Its rim shades where a raised one shines, so the light's side decides how it reads."),
    Material(name="silver foil", group="Metal and foil", skin=Skin(reflectance=BLACK, metal=ALUMINIUM, roughness=0.18),
             words="Hot-stamped aluminium: a mirror with a slight haze. It is as bright as the surface it mirrors, so give it a soft one."),
    Material(name="gold foil", group="Metal and foil", skin=Skin(reflectance=BLACK, metal=_tinted(ALUMINIUM, 0.95, 0.74, 0.36), roughness=0.18),
             words="Aluminium under a yellow lacquer; it goes black when it mirrors nothing. A white or silver card in its mirror direction brings the gold up."),
    Material(name="red foil", group="Metal and foil", skin=Skin(reflectance=BLACK, metal=_tinted(ALUMINIUM, 0.86, 0.10, 0.09), roughness=0.18),
             words="Aluminium under a red lacquer. What it mirrors turns red, and dark surroundings turn it almost black."),
    Material(name="crinkled foil", group="Metal and foil", skin=Skin(reflectance=BLACK, metal=ALUMINIUM, roughness=0.1, relief=Relief(kind="crinkle", period_m=7e-3, depth_m=1.6e-4)),
             words="Foil with dents of some millimetres, each with its own mirror image. A large even surface calms it, a small lamp makes it sparkle."),
    Material(name="polished aluminium", group="Metal and foil", skin=Skin(reflectance=BLACK, metal=ALUMINIUM),
             words="Mirrors nine tenths of everything in front of it. Build its surroundings: what is not lit around it is black in it."),
    Material(name="satin aluminium", group="Metal and foil", skin=Skin(reflectance=BLACK, metal=ALUMINIUM, roughness=0.5),
             words="Blasted metal that blurs its mirror image evenly. A strip turns into a broad glow with no edge."),
    Material(name="brushed aluminium", group="Metal and foil", skin=Skin(reflectance=BLACK, metal=ALUMINIUM, roughness=0.55, brush="around"),
             words="Scratches round the axis spread every image up and down, across the scratches. Lines from strips stay sharp sideways and run the full height."),
    Material(name="polished steel", group="Metal and foil", skin=Skin(reflectance=BLACK, metal=STEEL),
             words="A darker mirror than aluminium, about six tenths. Large cards close by give it long clean shapes."),
    Material(name="chrome", group="Metal and foil", skin=Skin(reflectance=BLACK, metal=CHROME),
             words="A hard, slightly blue mirror. Every edge of a panel is drawn in it, so use clean sheets rather than cloth."),
    Material(name="polished silver", group="Metal and foil", skin=Skin(reflectance=BLACK, metal=SILVER),
             words="The brightest mirror of all metals. It shows the whole room, the camera too; tent it or shoot through a card."),
    Material(name="polished gold", group="Metal and foil", skin=Skin(reflectance=BLACK, metal=GOLD),
             words="Red and green are mirrored, blue is swallowed. White cards give it its colour, dark ones its shape."),
    Material(name="polished copper", group="Metal and foil", skin=Skin(reflectance=BLACK, metal=COPPER),
             words="Mirrors red best and the rest by half. Warm light makes it orange, neutral light keeps it honest."),
    Material(name="lacquered metal", group="Metal and foil", skin=Skin(reflectance=BLACK, metal=_tinted(ALUMINIUM, 0.30, 0.42, 0.62), roughness=0.5, coat_index=1.5),
             words="Satin metal under a coloured clear coat: a blurred coloured image with a sharp faint one over it. The sharp one is what shows the panel's edge."),
    Material(name="black gloss", group="Gloss and film", skin=Skin(reflectance=_grey(0.0), coat_index=1.5),
             words="Black glass, dark bottles, piano lacquer: nothing but mirror. Four per cent head-on, a full mirror at the edge."),
    Material(name="gloss lacquer", group="Gloss and film", skin=Skin(reflectance=_rgb(0.42, 0.02, 0.03), coat_index=1.5),
             words="A colour under a hard gloss. The gloss mirrors white whatever the colour is, so keep panels where they draw the shape."),
    Material(name="satin coating", group="Gloss and film", skin=Skin(reflectance=_rgb(0.62, 0.63, 0.63), coat_index=1.5, roughness=0.35),
             words="A sprayed or etched satin on glass that hides what is inside. Its highlights are broad and soft on a pale ground."),
    Material(name="satin lacquer", group="Gloss and film", skin=Skin(reflectance=_rgb(0.05, 0.08, 0.16), coat_index=1.5, roughness=0.45),
             words="A colour under a soft sheen. Panels show as glows without edges."),
    Material(name="transparent film", group="Gloss and film", skin=Skin(reflectance=_rgb(0.75, 0.73, 0.70), coat_index=1.49, relief=Relief(kind="crinkle", period_m=1.2e-2, depth_m=2.2e-4)),
             words="Clear wrap over print: a sharp gloss with folds. Every fold finds the lamp, so light it with one large surface or from outside its mirror directions."),
    Material(name="retroreflective cloth", group="Gloss and film", skin=Skin(reflectance=_grey(0.62), coat_index=2.0, roughness=0.11, returns=True),
             words="Safety cloth covered with glass beads: grey in ordinary light, blazing where the light stands beside the lens. Keep lights 30 cm off the lens, or bring one in on purpose."),
    Material(name="black plastic", group="Gloss and film", skin=Skin(reflectance=_grey(0.03), coat_index=1.5, roughness=0.4),
             words="Moulded cap or tub with a dull sheen. It takes its shape from one broad soft line."),
    Material(name="opal sheet", group="Sheets", skin=Skin(reflectance=_grey(0.35), through=0.45),
             words="Translucent white that glows where it is lit from behind. Distance of the lamp sets how wide the glow is."),
    Material(name="white roll paper", group="Sheets", skin=Skin(reflectance=_grey(0.85)),
             words="Matte white background or sweep. A spot aimed at it makes a pool that falls off to grey."),
    Material(name="black velvet", group="Sheets", skin=Skin(reflectance=_grey(0.004)),
             words="The darkest cloth there is. Far behind and flagged it reads as no background at all."),
)  # fmt: skip

TABLE_SKINS = (
    Material(name="black gloss", group="Table tops", skin=Skin(reflectance=_grey(0.01), coat_index=1.49),
             words="Black acrylic: one clean mirror image, faint from above and strong at a low camera. It shows dust and every panel."),
    Material(name="white gloss", group="Table tops", skin=Skin(reflectance=_grey(0.8), coat_index=1.49),
             words="White acrylic: bright, with a soft image of the product's foot. It throws a fifth of its light back onto the label."),
    Material(name="black matte", group="Table tops", skin=Skin(reflectance=_grey(0.03)),
             words="Black card or cloth without any image. The product stands in the dark."),
    Material(name="grey matte", group="Table tops", skin=Skin(reflectance=_grey(0.18)),
             words="Middle grey card. Useful to meter on and to judge shadows."),
    Material(name="white matte", group="Table tops", skin=Skin(reflectance=_grey(0.85)),
             words="White paper flat on the table. It fills everything from below."),
    Material(name="rear-painted glass", group="Table tops", skin=Skin(reflectance=_grey(0.01), coat_index=1.52),
             words="Glass painted black underneath: its front mirrors and its back mirrors again, shifted by the thickness. The foot shows a double image."),
    Material(name="water film", group="Table tops", skin=Skin(reflectance=_grey(0.01), coat_index=WATER_INDEX, relief=Relief(kind="ripple", period_m=3e-2, depth_m=6e-5)),
             words="A film of water over black: one mirror image of two per cent, waving gently. Let it settle, or touch it for ripples."),
    Material(name="polished metal", group="Table tops", skin=Skin(reflectance=BLACK, metal=STEEL),
             words="A steel plate: one strong mirror image from every height. Everything above it shows."),
    Material(name="brushed metal", group="Table tops", skin=Skin(reflectance=BLACK, metal=STEEL, roughness=0.5, brush="around"),
             words="A steel plate with scratches from left to right. Images run out towards and away from the camera."),
    Material(name="dark wood", group="Table tops", skin=Skin(reflectance=_rgb(0.115, 0.062, 0.034), coat_index=1.5, roughness=0.55, pattern="wood", second=_rgb(0.055, 0.026, 0.014), pattern_m=0.018),
             words="Oiled boards with a dull sheen. Light from behind brings out the sheen, from the side the grain."),
    Material(name="light wood", group="Table tops", skin=Skin(reflectance=_rgb(0.46, 0.31, 0.18), pattern="wood", second=_rgb(0.34, 0.21, 0.11), pattern_m=0.022),
             words="Raw pale boards, matte. They warm the light that they throw back."),
    Material(name="stone", group="Table tops", skin=Skin(reflectance=_grey(0.22), relief=Relief(kind="grain", period_m=4e-3, depth_m=2.5e-4)),
             words="Rough slate. A low light from behind draws its grain, frontal light flattens it."),
)  # fmt: skip

GLASSES = (
    Clear(name="clear glass", group="Glass", medium=Medium(index=1.52, left_per_cm=(0.985, 0.993, 0.988)),
          words="Flint glass with a trace of green in the thick base. It shows what is behind it, upside down when filled; black cards beside it draw its outline."),
    Clear(name="crystal", group="Glass", medium=Medium(index=1.545, left_per_cm=(0.998, 0.998, 0.998)),
          words="Colourless stemware glass with a higher index. Its edges bend more light and sparkle more."),
    Clear(name="green glass", group="Glass", medium=Medium(index=1.52, left_per_cm=(0.17, 0.52, 0.14)),
          words="Bottle green. Through both walls of a bottle a third of the green and almost no red or blue is left."),
    Clear(name="olive glass", group="Glass", medium=Medium(index=1.52, left_per_cm=(0.33, 0.42, 0.07)),
          words="Dead-leaf glass, yellow-green. It needs a strong light from behind to glow."),
    Clear(name="amber glass", group="Glass", medium=Medium(index=1.52, left_per_cm=(0.50, 0.17, 0.01)),
          words="Brown glass that lets red and some green through. Backlight turns it to fire; without it it is black."),
    Clear(name="blue glass", group="Glass", medium=Medium(index=1.52, left_per_cm=(0.06, 0.20, 0.66)),
          words="Cobalt glass. It swallows red and most green, so warm light is wasted on it."),
    Clear(name="black glass", group="Glass", medium=Medium(index=1.52, left_per_cm=(1e-6, 1e-6, 1e-6)),
          words="Glass so dark that nothing passes its wall. It is lit by what it mirrors alone."),
)  # fmt: skip

LIQUIDS = (
    Clear(name="water", group="Liquid", medium=Medium(index=WATER_INDEX, left_per_cm=WATER_LEFT),
          words="Colourless, a strong lens in a round glass. The background appears upside down in it."),
    Clear(name="white wine", group="Liquid", medium=Medium(index=1.343, left_per_cm=(0.985, 0.965, 0.86)),
          words="Pale gold that deepens with the width of the glass. A white card behind it is enough to make it glow."),
    Clear(name="red wine", group="Liquid", medium=Medium(index=1.345, left_per_cm=(0.42, 0.025, 0.04)),
          words="Nearly black beyond three centimetres. Cut it with water until backlight comes through."),
    Clear(name="dark cordial", group="Liquid", medium=Medium(index=1.38, left_per_cm=(0.30, 0.012, 0.06)),
          words="Berry syrup, black in the bottle. Diluted to a tenth it shows its red."),
    Clear(name="amber spirit", group="Liquid", medium=Medium(index=1.361, left_per_cm=(0.93, 0.76, 0.40)),
          words="Matured spirit: honey in a glass, deep orange across a bottle. Light it from behind and a little below."),
    Clear(name="clear spirit", group="Liquid", medium=Medium(index=1.358, left_per_cm=WATER_LEFT),
          words="Colourless with a slightly stronger lens than water. Only its level and meniscus show that it is there."),
    Clear(name="lager", group="Liquid", medium=Medium(index=1.345, left_per_cm=(0.96, 0.86, 0.52)),
          words="Bright gold. A card cut to the glass's shape behind it lifts it from any background."),
    Clear(name="herb liqueur", group="Liquid", medium=Medium(index=1.39, left_per_cm=(0.62, 0.83, 0.22)),
          words="Yellow-green syrup. It keeps its green only in neutral light."),
    Clear(name="olive oil", group="Liquid", medium=Medium(index=1.468, left_per_cm=(0.80, 0.74, 0.16)),
          words="Almost the index of glass: the inner wall vanishes where it is wetted. Its green shows in thin layers, its yellow in thick ones."),
)  # fmt: skip

SKIN = {m.name: m for m in SKINS}
TABLE_SKIN = {m.name: m for m in TABLE_SKINS}
GLASS = {m.name: m for m in GLASSES}
LIQUID = {m.name: m for m in LIQUIDS}

REAR_GLASS = Medium(index=1.52, left_per_cm=(0.985, 0.993, 0.988))
REAR_PAINT_INDEX = 1.85
"""Pigmented black paint against glass: about 1 % is mirrored at its back. From memory; measure yours."""
