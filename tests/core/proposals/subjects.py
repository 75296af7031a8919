"""Seeded subjects of every kind before a seeded camera, to place light for."""

import math

import numpy as np

from fotaxis.formats.shot_codec import JsonShots
from fotaxis.services.changes import applied
from fotaxis.services.framing import reframing
from fotaxis.services.presets import new_shape, start_document

CODEC = JsonShots()
BODIES = ("chrome", "black gloss", "chrome")
"""A can is of chrome: its lid, seen flat, would mirror on gloss four times what its side does, and outshine it."""
GLASS = {"glass": "clear glass", "wall_mm": 2.5, "floor_cm": 1.2}


def shape(random, kind):
    """The parts of a shot's subject."""

    def some(low, high):
        return round(float(random.uniform(low, high)), 2)

    if kind in ("bottle", "glass"):
        size, wide = some(0.6, 1.2), some(0.85, 1.15)
        measured = [(0, 6.6), (0.4, 7.2), (1.2, 7.4), (12, 7.4), (17, 7.4), (18.5, 7.2), (20, 6.4), (21.5, 5.0), (23, 3.7),
                    (24.5, 3.05), (29, 2.8), (30.8, 2.6)]  # fmt: skip
        profile = [{"height_cm": round(h * size, 2), "diameter_cm": round(d * size * wide, 2)} for h, d in measured]
        made = {"kind": "turned", "profile": profile}
        return made | ({"glass": GLASS} if kind == "glass" else {})
    if kind == "jar":
        wide, high = some(5, 10), some(5, 12)
        return {"kind": "turned", "profile": [
            {"height_cm": at, "diameter_cm": across} for at, across in ((0, wide * 0.92), (0.5, wide), (high, wide))
        ]}  # fmt: skip
    sizes = {
        "can": {"diameter_cm": some(4, 8), "height_cm": some(8, 16)}, "ball": {"diameter_cm": some(3, 12)},
        "box": {"width_cm": some(4, 14), "height_cm": some(6, 20), "depth_cm": some(3, 10)},
        "tube": {"diameter_cm": some(2, 5), "length_cm": some(8, 16)},
        "flacon": {},
    }  # fmt: skip
    return new_shape(kind) | sizes[kind]


def subject(seed):
    """A shot document with one glossy subject, nothing else on its table, framed; no lights."""
    random = np.random.default_rng(seed)
    kinds = ("bottle", "jar", "can", "ball", "box", "tube", "flacon", "glass")
    kind = kinds[seed % len(kinds)]
    document = start_document("empty")
    made = {
        "name": "Made",
        "body": {"material": "chrome" if kind == "can" else BODIES[seed % len(BODIES)]},
        "bands": [],
        **shape(random, kind),
    }
    if kind == "box":
        made["turn_deg"] = round(float(random.uniform(-25, 25)), 1)
    document["subject"] = made
    document["riser"] = {"height_cm": 5, "diameter_cm": 6} if seed % 2 else None
    document["background"] = None
    distance, focal = float(random.uniform(70, 220)), float(random.choice([50, 85, 100, 135]))
    look = math.radians(float(random.uniform(-2, 25)))
    document["camera"] |= {
        "distance_cm": round(distance, 1), "height_cm": round(8 + distance * math.tan(look), 1), "aim_height_cm": 8,
        "focal_length_mm": focal,
    }  # fmt: skip
    document = CODEC.check(document)
    return CODEC.check(applied(document, reframing(CODEC.plan(document), fills=float(random.uniform(0.5, 0.85)))))
