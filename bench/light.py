"""Light that is shaped: a drag with many surfaces and two lit sheets, and how its cost grows with the number of lights."""

from __future__ import annotations

import math
from dataclasses import replace
from itertools import count

import numpy as np

from bench.materials import OUT, PIXELS, plot, six_lights
from bench.timing import line, repeated_ms
from fotaxis.core.lights.calibration import GuideNumber
from fotaxis.core.lights.card_finishes import FINISH
from fotaxis.core.lights.fixtures import Card, Emission, Lamp
from fotaxis.core.lights.heads import HEAD
from fotaxis.core.render.final.final_render import render_final
from fotaxis.core.render.final.quality import SCREEN
from fotaxis.core.render.layers import layer_gains
from fotaxis.core.render.preview.preview_cache import PreviewCache
from fotaxis.core.render.preview.render_preview import render_preview
from fotaxis.core.render.preview.traced_scene import TracedScene, trace_scene
from fotaxis.core.scene.plan import Plan
from tests import scenes

LIGHTS = (1, 2, 4, 8, 12, 16)


def head(key: str, *, x: float, y: float, z: float, turn: float, tilt: float = 0.0, grid: float = 0.0) -> Lamp:
    kind = HEAD["dish 65°"]
    return Lamp(
        key=key, name=key, stance=scenes.stance(x, y, z, turn, tilt), head=kind, diameter_m=kind.diameter_m,
        grid_angle_rad=math.radians(grid), emission=Emission(calibration=GuideNumber(metres=kind.guide_number_m), power_stops=-4),
    )  # fmt: skip


def thing(key: str, finish: str, *, x: float, z: float, turn: float, width: float, height: float) -> Card:
    return Card(
        key=key, name=key, stance=scenes.stance(x, 0.22, z, turn), width_m=width, height_m=height, finish=FINISH[finish]
    )


def twelve_things(plan: Plan, sheets: tuple[str, str]) -> Plan:
    """Seven lights, two sheets lit from behind, a silver, a white and a black card."""
    pair = head("behind-left", x=-0.7, y=0.3, z=-0.75, turn=45), head("behind-right", x=0.85, y=0.25, z=-0.4, turn=-62)
    label = head("label", x=0.3, y=0.7, z=1.0, turn=-164, tilt=-30, grid=20)
    panels = tuple(scenes.panel(f"p{i}", x=-0.8 + 0.4 * i, y=0.9, z=-0.6, turn=0, width=0.1, height=0.1) for i in range(4))
    cards = (
        thing("left", sheets[0], x=-0.42, z=-0.35, turn=50, width=0.3, height=0.9),
        thing("right", sheets[1], x=0.45, z=-0.25, turn=-60, width=0.3, height=0.9),
        thing("silver", "silver card", x=0.3, z=0.35, turn=-140, width=0.15, height=0.2),
        thing("white", "white card", x=-0.25, z=0.3, turn=130, width=0.15, height=0.2),
        thing("black", "black card", x=-0.2, z=0.1, turn=100, width=0.06, height=0.3),
    )
    return replace(plan, lights=(*pair, label, *panels), cards=cards)


def run() -> None:
    print("Shaped light, twelve surfaces, two sheets lit from behind, 320 x 400")
    for name, plan in (("opaque", scenes.plan()), ("filled glass", six_lights())):
        for sheets in (("opal acrylic", "full grid cloth"), ("opal acrylic", "half white")):
            whole = twelve_things(plan, sheets)
            stage, gains = trace_scene(whole, width=320, height=400), layer_gains(whole)
            drag, turn = PreviewCache(), count()

            def moved(
                s: TracedScene = stage, w: Plan = whole, g: np.ndarray = gains, drag: PreviewCache = drag, turn=turn
            ) -> None:
                left = w.cards[0]
                place = replace(left.stance.place, x_m=left.stance.place.x_m + 0.001 * (next(turn) % 60))
                now = replace(w, cards=(replace(left, stance=replace(left.stance, place=place)), *w.cards[1:]))
                render_preview(s, now, gains=g, pixels=PIXELS, drag=drag)

            taken = repeated_ms(moved, times=30)
            wanted = f"({1000 / (40 if name == 'opaque' else 30):.0f} wanted with the page)"
            print(line(f"drag, {name}, {sheets[1]} on the right", taken, wanted=wanted))
        fine = repeated_ms(lambda s=stage, w=whole: render_final(s, w, quality=SCREEN), times=3, warm=1)
        print(line(f"at rest, {name}, for the screen", fine))
    _growth()


def _growth() -> None:
    """Time of a drag's picture against the number of lights, printed and drawn to .local/bench/lights.svg."""
    base = scenes.plan()
    stage = trace_scene(base, width=320, height=400)
    points = []
    for lit in LIGHTS:
        around = np.linspace(-150, 150, lit)
        lights = tuple(
            head(f"h{i}", x=math.sin(math.radians(a)), y=0.4, z=math.cos(math.radians(a)), turn=a + 180)
            for i, a in enumerate(around)
        )
        plan = replace(base, lights=lights)
        gains = layer_gains(plan)
        taken = repeated_ms(lambda p=plan, g=gains: render_preview(stage, p, gains=g, pixels=PIXELS), times=15)
        points.append((lit, min(taken)))
        print(f"  drag with {lit:2} lights: {min(taken):.1f} ms")
    x, y = np.array(points, float).T
    slope, start = np.polyfit(x, y, 1)
    worst = np.abs(start + slope * x - y).max() / y.max()
    print(f"  straight line: {start:.1f} ms + {slope:.1f} ms a light, off by at most {worst:.0%} of the largest")
    OUT.mkdir(parents=True, exist_ok=True)
    (OUT / "lights.svg").write_text(
        plot(x, y, slope, start, across="lights", up="milliseconds for a picture while dragging")
    )
