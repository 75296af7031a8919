"""Edge panels in closed form, and that the traced picture agrees."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.errors import DomainError
from fotaxis.core.frames.line_profile import ReadingLine, find_highlights, luminance_along, product_edges
from fotaxis.core.placement.edge import ABOVE, clear_distance_m, edge_panel
from fotaxis.core.render.final.final_render import render_final
from fotaxis.core.render.layers import layer_gains
from fotaxis.core.render.preview.traced_scene import trace_scene
from tests import scenes

SET = {"camera_height_m": 0.15, "camera_distance_m": 1.2}


def test_the_panel_stands_between_116_and_144_degrees():
    # Source: the closed form 2 asin(x / R): 0.85 needs 116.4 degrees, 0.95 143.6. A radius far under the distance.
    panel = edge_panel(radius_m=1e-4, foot_m=0.0, top_m=0.3, distance_m=0.5, **SET)
    across = math.cos(panel.turn_rad), -math.sin(panel.turn_rad)
    ends = [
        math.degrees(math.atan2(panel.x_m + side * across[0] * panel.width_m / 2, panel.z_m + side * across[1] * panel.width_m / 2))
        for side in (-1, 1)
    ]  # fmt: skip
    assert sorted(ends) == approx([116.4, 143.6], abs=0.1)
    assert math.hypot(panel.x_m, panel.z_m) == approx(0.5, rel=0.01)


def test_its_lower_edge_lies_where_the_riser_is_needed():
    # Source: worked example: foot 0, lens at 0.15 m, 1.20 m away, way 0.50 m: 6.25 cm below the foot.
    panel = edge_panel(radius_m=1e-4, foot_m=0.0, top_m=0.3, distance_m=0.5, **SET)
    assert panel.low_m == approx(-0.0625, abs=0.002)
    # By hand: the top's ray rises by s (0.3 - 0.15) / 1.2 to 0.3625; a share more for shoulders.
    assert panel.height_m == approx((0.3625 + 0.0625) * ABOVE, abs=0.005)


def test_the_traced_picture_shows_the_line_where_it_was_asked_for():
    radius = 0.04
    panel = edge_panel(radius_m=radius, foot_m=0.0, top_m=0.3, distance_m=0.5, camera_height_m=0.15, camera_distance_m=3.0)
    light = scenes.panel(
        "key", x=panel.x_m, y=panel.y_m, z=panel.z_m, turn=math.degrees(panel.turn_rad), width=panel.width_m, height=panel.height_m
    )  # fmt: skip
    plan = scenes.bare(scenes.cylinder(radius=radius, height=0.3), lights=(light,))
    place = replace(plan.camera.place, x_m=0.0, y_m=0.15, z_m=3.0)
    plan = replace(plan, camera=replace(plan.camera, place=place, aim=replace(plan.camera.aim, y_m=0.15)))
    stage = trace_scene(plan, width=800, height=160)
    layers = render_final(stage, plan)
    line = ReadingLine(x0=0, y0=0.5, x1=1, y1=0.5)
    edges = product_edges(stage.is_product, line)
    level = layer_gains(plan) @ luminance_along(layers.pictures, line)
    position = (np.linspace(0, 1, len(level)) - edges[0]) / (edges[1] - edges[0]) * 2 - 1
    inside = np.flatnonzero(np.abs(position) <= 1)
    found = find_highlights(level, position, (int(inside[0]), int(inside[-1])))
    assert found, "no line on the cylinder"
    # Tolerance: the camera stands 75 radii away, not far; the reading has 480 samples over the frame.
    middle = max(found, key=lambda h: h.place)
    assert middle.place == approx(0.90, abs=0.03)


def test_it_clears_the_table():
    distance = clear_distance_m(radius_m=0.04, table_width_m=0.6, table_depth_m=0.5, least_m=0.2)
    panel = edge_panel(radius_m=0.04, foot_m=0.0, top_m=0.3, distance_m=distance, **SET)
    across = math.cos(panel.turn_rad), -math.sin(panel.turn_rad)
    for part in (-0.5, 0.0, 0.5):
        x, z = panel.x_m + part * panel.width_m * across[0], panel.z_m + part * panel.width_m * across[1]
        assert abs(x) > 0.3 or z < -0.25
    assert clear_distance_m(radius_m=0.04, table_width_m=0.01, table_depth_m=0.01, least_m=0.3) == 0.3


def test_an_impossible_panel_is_refused():
    with pytest.raises(DomainError):
        edge_panel(radius_m=0.1, foot_m=0.0, top_m=0.3, distance_m=0.05, **SET)
