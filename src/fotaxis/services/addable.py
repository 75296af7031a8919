"""Everything that can be added to a set, with what photographers call it."""

from __future__ import annotations

from collections.abc import Iterator

from fotaxis.services.lighting_setups import SETUPS
from fotaxis.services.presets import BOXES, CARD_KINDS, CORRIDOR_KIND, HEAD_KINDS, OTHERS, QUICK, SHAPED, SHEET_KINDS

ALSO = {
    "panel": "soft light face strip",
    "strip box": "softbox strip bank",
    "octabox": "softbox octa umbrella",
    "square box": "softbox bank",
    "box with an inner baffle": "softbox double diffusion bank",
    "LED panel": "light tile mat continuous",
    "LED tube": "tube wand stick continuous",
    "window, open sky": "daylight north light",
    "broad dish": "beauty dish",
    "dish 65°": "standard reflector spill hard head strobe",
    "dish 110°": "umbrella reflector wide",
    "narrow dish 40°": "long throw magnum reflector hard",
    "bare head": "bare bulb dome",
    "snoot": "cone spot",
    "focusing spot": "gobo projection profile ellipsoidal optical snoot blades pattern cucoloris",
    "lens spot": "fresnel stepped lens",
    "small battery flash": "speedlight hotshoe",
    "grid head": "honeycomb grid spot",
    "white card": "bounce fill reflector foam board v-flat polyboard",
    "black card": "flag floppy cutter negative fill solid",
    "mirror card": "mirror bounce",
    "silver card": "kicker bounce reflector foil",
    "satin silver card": "kicker bounce reflector",
    "gold card": "warm bounce reflector",
    "lens-hole card": "ring reflector card with a hole",
    "card behind the bottle": "cut card kicker reflector glow",
    "curved reflector": "bent reflector",
    "corridor of black cards": "slit flags",
    "scrim and head": "scrim butterfly frame diffusion",
    "background head": "backlight",
    "diffuser disc": "scrim round pop-up diffuser",
    "single net": "scrim net flag",
    "double net": "scrim net flag",
    "triple net": "scrim net flag",
    "sun": "daylight",
}
"""What a kind is called beside its own name, as people search for it."""

SHEET_ALSO = "scrim diffusion sheet diffuser silk frost tracing"


def addable() -> list[dict[str, str]]:
    """Kinds and set-ups with their names and other words for them, in the order they are offered."""
    return [
        *_kinds(),
        *({"setup": setup.key, "name": setup.name, "also": f"lighting set-up: {setup.words}"} for setup in SETUPS.values()),
    ]


def _kinds() -> Iterator[dict[str, str]]:
    quick = {kind: words for kind, (_, words, _) in QUICK.items()}
    for kind in dict.fromkeys((*quick, *BOXES, *HEAD_KINDS, *CARD_KINDS, *SHAPED, CORRIDOR_KIND, *SHEET_KINDS, "sun")):
        also = ALSO.get(kind, SHEET_ALSO if kind in SHEET_KINDS else "")
        yield {"kind": kind, "name": kind[0].upper() + kind[1:], "also": f"{quick.get(kind, '')} {also}".strip()}
    for kind, name in OTHERS.items():
        yield {"kind": kind, "name": name, "also": "product beside"}
