"""Glass and final pictures: what they cost, in memory too, how cost grows with pixels, and against the reference."""

from __future__ import annotations

import resource
import subprocess
import sys
import time
from dataclasses import replace
from pathlib import Path

import numpy as np

from bench.reference import compare
from bench.timing import line, repeated_ms
from fotaxis.core.lights.fixtures import Panel
from fotaxis.core.materials.catalogue import GLASS, LIQUID
from fotaxis.core.render.final.final_render import render_final
from fotaxis.core.render.layers import layer_gains
from fotaxis.core.render.preview.render_preview import render_preview
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.core.scene.plan import Plan
from tests import material_scenes, scenes

OUT = Path(__file__).parents[1] / ".local" / "bench"
SIZES = ((160, 200), (320, 400), (480, 600), (640, 800), (894, 1118))
PIXELS = np.arange(400)


def six_lights() -> Plan:
    """A green bottle, filled, with a label, on black acrylic, six lights about it."""
    plan = material_scenes.filled_bottle(coloured=True)
    vessel = replace(plan.product.vessel, glass=GLASS["green glass"].medium, liquid=LIQUID["white wine"].medium)
    label = scenes.plan().product.bands
    more = (
        scenes.head(), scenes.panel("top", x=0, y=0.9, z=0.1, turn=0, tilt=-80, width=0.4, height=0.3),
        scenes.panel("low", x=-0.3, y=0.1, z=0.4, turn=140, width=0.1, height=0.1),
    )  # fmt: skip
    table = scenes.plan().table
    return replace(
        plan, product=replace(plan.product, vessel=vessel, bands=label), lights=(*plan.lights, *more), table=table,
        background=scenes.plan().background,
    )  # fmt: skip


def final_in_a_process_of_its_own() -> None:
    """A 1-megapixel final, timed and weighed where nothing else has used memory."""
    plan = six_lights()
    render_final(trace_scene(plan, width=80, height=100), plan)
    began, cpu = time.perf_counter(), time.process_time()
    layers = render_final(trace_scene(plan, width=894, height=1118), plan)
    taken, worked = time.perf_counter() - began, time.process_time() - cpu
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    print(
        f"  final of 1 megapixel, filled bottle, 6 lights, edges smoothed: {taken:.1f} s ({worked:.1f} s of processor), "
        f"{peak:.2f} GB, {layers.lost_share:.2%} of the light cut off   (5 s, 1.5 GB, 0.5 % wanted)"
    )


def run() -> None:
    plan = six_lights()
    print("Filled glass, six lights")
    for width, height in ((320, 400), (640, 800)):
        stage = trace_scene(plan, width=width, height=height)
        gains = layer_gains(plan)
        size = f"{width} x {height}"
        moved = [
            replace(plan, camera=replace(plan.camera, place=replace(plan.camera.place, x_m=k / 1000))) for k in range(99)
        ]
        turn = iter(moved * 9)

        def camera_moved(w: int = width, h: int = height, g: np.ndarray = gains, turn=turn) -> None:
            now = next(turn)
            render_preview(trace_scene(now, width=w, height=h), now, gains=g, pixels=PIXELS)

        print(
            line(
                f"camera or product moved, picture anew {size}",
                repeated_ms(camera_moved),
                wanted="(100 wanted at 320 x 400)",
            )
        )
        work = repeated_ms(lambda s=stage, g=gains: render_preview(s, plan, gains=g, pixels=PIXELS), times=30)
        print(line(f"relight while dragging {size}", work))
    subprocess.run([sys.executable, "-c", "from bench.materials import *; final_in_a_process_of_its_own()"], check=True)
    _growth(plan)
    compare("filled glass before one large panel", material_scenes.filled_bottle(), part="glass", depth=24)
    compare("filled glass on black, four panels", on_black(), part="glass", depth=24)


def on_black() -> Plan:
    """The bottle of clear glass and water with its label, drawn by the lines of four panels alone."""
    clear = material_scenes.filled_bottle().product.vessel
    plan = six_lights()
    panels = tuple(light for light in plan.lights if isinstance(light, Panel) and light.key != "back")
    return replace(plan, product=replace(plan.product, vessel=clear), lights=panels)


def _growth(plan: Plan) -> None:
    """Time of a final picture against its pixels, printed and drawn to .local/bench/pixels.svg."""
    points = []
    for width, height in SIZES:
        taken = min(
            repeated_ms(lambda w=width, h=height: render_final(trace_scene(plan, width=w, height=h), plan), times=3, warm=0)
        )
        points.append((width * height / 1e6, taken / 1000))
    x, y = np.array(points).T
    slope, start = np.polyfit(x, y, 1)
    worst = np.abs(start + slope * x - y).max() / y.max()
    for megapixels, seconds in points:
        print(f"  final of {megapixels:.3f} megapixels: {seconds:.2f} s, {seconds / megapixels:.1f} s a megapixel")
    print(f"  straight line: {start:.2f} s + {slope:.2f} s a megapixel, off by at most {worst:.0%} of the largest")
    OUT.mkdir(parents=True, exist_ok=True)
    (OUT / "pixels.svg").write_text(plot(x, y, slope, start))
    print(f"  drawn in {OUT.relative_to(Path.cwd()) if OUT.is_relative_to(Path.cwd()) else OUT}/pixels.svg")


def plot(
    x: np.ndarray, y: np.ndarray, slope: float, start: float, *, across: str = "megapixels",
    up: str = "seconds for a final picture",
) -> str:  # fmt: skip
    def at(a: float, b: float) -> str:
        return f"{60 + 480 * a / x.max():.1f},{340 - 300 * b / y.max():.1f}"

    dots = "".join(
        f'<circle cx="{at(a, b).split(",")[0]}" cy="{at(a, b).split(",")[1]}" r="4"/>' for a, b in zip(x, y, strict=True)
    )
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 600 400" font-family="sans-serif" font-size="13">'
        '<rect width="600" height="400" fill="#fff"/><path d="M60 30V340H560" fill="none" stroke="#000"/>'
        f'<polyline points="{at(0, max(start, 0))} {at(x.max(), start + slope * x.max())}" fill="none" stroke="#888"/>{dots}'
        '<text x="300" y="375" text-anchor="middle">'
        f'{across}</text><text x="60" y="20">{up}</text>'
        f'<text x="550" y="358" text-anchor="end">{x.max():.2f}</text><text x="52" y="45" text-anchor="end">{y.max():.1f}</text></svg>'
    )
