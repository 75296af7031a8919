"""The engine alone: what a drag and a hand at rest cost without a browser."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bench.timing import line, repeated_ms
from fotaxis.core.render.final.final_render import render_final
from fotaxis.core.render.layers import develop, layer_gains
from fotaxis.core.render.preview.render_preview import render_preview
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.core.render.tracing.trace import PREVIEW_CUT
from fotaxis.core.scene.plan import Plan
from tests import scenes

PIXELS = np.arange(400)


def eight_things() -> Plan:
    """The bottle with eight things that can be moved: two panels, a label light, a third panel and four cards."""
    sides = [(26, 24, -110), (-30, 12, 110), (34, 0, -110), (-38, -12, 110)]
    cards = tuple(
        scenes.card(
            f"card-{i}", x=x / 100, y=0.18, z=z / 100, turn=turn, width=0.12, height=0.3, reflectance=(0.85, 0.03)[i % 2]
        )
        for i, (x, z, turn) in enumerate(sides)
    )
    plan = scenes.plan(cards=cards)
    fourth = scenes.panel("top", x=0.0, y=0.9, z=0.1, turn=0, tilt=-80, width=0.6, height=0.4)
    return replace(plan, lights=(*plan.lights, fourth))


def run() -> None:
    plan = eight_things()
    print("Engine, eight movable things")
    for width, height in ((320, 400), (640, 800)):
        stage = trace_scene(plan, width=width, height=height, cut=PREVIEW_CUT)
        layers = render_final(stage, plan)
        gains = layer_gains(plan)
        size = f"{width} x {height}"
        print(line(f"trace {size}", repeated_ms(lambda w=width, h=height: trace_scene(plan, width=w, height=h))))
        print(
            line(
                f"relight while dragging {size}",
                repeated_ms(lambda s=stage, g=gains: render_preview(s, plan, gains=g, pixels=PIXELS), times=40),
            )
        )
        print(line(f"relight at rest, edges smoothed {size}", repeated_ms(lambda s=stage: render_final(s, plan), times=7)))
        print(line(f"mix layers to a picture {size}", repeated_ms(lambda a=layers, g=gains: develop(a, g), times=40)))
    print(f"  light dropped by the cut-offs {layers.lost_share:.3%}")
