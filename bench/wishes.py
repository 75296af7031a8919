"""How long an answer to a wish takes: powers for eight heads and twelve wishes, and where the panel of a line stands."""

from __future__ import annotations

import json
from contextlib import suppress
from pathlib import Path

import numpy as np

import fotaxis.demo
from bench.engine import eight_things
from bench.timing import line, repeated_ms
from fotaxis.core.constants import MIDDLE_GREY
from fotaxis.core.errors import NoSolution
from fotaxis.core.frames.readings.edge import EdgeLine
from fotaxis.core.frames.zones_seen import zones_seen
from fotaxis.core.lights.power import PowerRange
from fotaxis.core.proposals.panel import nearest_clear
from fotaxis.core.proposals.ways import line_ways
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.core.wishes.balance import Dial, balance
from fotaxis.core.wishes.wish import LevelTarget
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.services.changes import applied
from fotaxis.services.pictures import Pictures
from fotaxis.services.proposals import Asked, asked_for, proposals
from fotaxis.services.wish_sets import set_wishes

HEADS, WISHES = 8, 12
WIDTH, HEIGHT = 320, 400


def run() -> None:
    print("Wishes")
    random = np.random.default_rng(8)
    dials = [
        Dial(key=f"l{i}", name=f"Head {i}", now=-float(random.integers(1, 6)), steps=PowerRange()) for i in range(HEADS)
    ]
    parts = {f"r{k}": MIDDLE_GREY * np.concatenate([[2.0**-10], 2.0 ** random.uniform(-6, 4, HEADS)]) for k in range(WISHES)}
    wanted = random.uniform(-6, -1, HEADS).round(0)
    reachable = {key: float(np.log2((of[0] + of[1:] @ 2.0**wanted) / MIDDLE_GREY)) for key, of in parts.items()}
    for name, off in (("that can all be met", 0.0), ("of which some cannot", 3.0)):
        targets = [
            LevelTarget(reading=key, stops=stops + (off if i % 4 == 0 else 0.0), within=1 / 6)
            for i, (key, stops) in enumerate(reachable.items())
        ]
        print(
            line(f"balance {HEADS} heads, {WISHES} wishes {name}", repeated_ms(lambda t=targets: balance(t, parts, dials)))
        )
    plan = eight_things()
    stage = trace_scene(plan, width=WIDTH, height=HEIGHT)
    at = EdgeLine(left=True, low=0.1, high=0.6)
    print(
        line(
            "where the panel of a line stands",
            repeated_ms(
                lambda: nearest_clear(plan, line_ways(plan, stage.scene, stage.is_product, at, near=0.85, far=0.95))
            ),
        )
    )
    for name, key in SHOTS:
        ways(name, key)


SHOTS = (("elder-cordial", "soft lines"), ("gift-carton", "foil"), ("gooseberry-dark-field", "dark field"))


def ways(name: str, key: str) -> None:
    """How long the ways to meet each wish of a demo shot take, once the set is traced."""
    pictures, codec = Pictures(), JsonShots()
    document = codec.check(json.loads((Path(fotaxis.demo.__file__).parent / f"{name}.json").read_text()))
    plan = codec.plan(document)
    document = codec.check(applied(document, set_wishes(document, key, zones_seen(plan, pictures.stage(plan)))))
    for wish in codec.wishes(document):
        asked = asked_for(pictures, codec, document, wish)

        def found(asked: Asked = asked) -> None:
            with suppress(NoSolution):
                proposals(asked)

        print(line(f"{name}: ways for {wish.key}", repeated_ms(found)))
