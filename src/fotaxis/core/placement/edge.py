"""Where an upright panel must stand so that its line runs down the edge of an upright glossy product."""

from __future__ import annotations

import math
from dataclasses import dataclass

from fotaxis.core.errors import DomainError
from fotaxis.core.placement.cylinder import light_angle_rad, mirror_height_m

LEAST_WIDTH_M = 0.04
ABOVE = 1.12
"""A panel is so much taller than its image needs: shoulders want more than one thinks.  Common practice."""

CLEARS_M = 0.03
LOOKED_AT = [t / 16 for t in range(-16, 17)]
"""Places along a panel at which it must clear the table: a corner is narrow."""


@dataclass(frozen=True, slots=True, kw_only=True)
class EdgePanel:
    """A panel on the right of the product (mirror x and turn for the left): middle, turn, size; metres and radians.

    low_m: height its lower edge must reach for a line down to the foot.
    """

    x_m: float
    y_m: float
    z_m: float
    turn_rad: float
    width_m: float
    height_m: float
    low_m: float


def panel_ends(
    *, radius_m: float, distance_m: float, inner: float, outer: float
) -> tuple[tuple[tuple[float, float], tuple[float, float]], float]:
    """Ends (x, z) of the panel whose image covers inner..outer of the half width, seen from above, and the rays' mean length.

    The panel stands square to the middle ray, distance_m from the axis; its ends lie on the rays from both ends of the line.
    Holds for:  as edge_panel.  Source: law of reflection.
    """
    middle = (light_angle_rad(offset_ratio=inner) + light_angle_rad(offset_ratio=outer)) / 2
    mx, mz = math.sin(middle), math.cos(middle)
    ends, paths = [], []
    for ratio in (inner, outer):
        normal = math.asin(ratio)
        px, pz = radius_m * math.sin(normal), radius_m * math.cos(normal)
        dx, dz = math.sin(2 * normal), math.cos(2 * normal)
        path = (distance_m - (px * mx + pz * mz)) / (dx * mx + dz * mz)
        ends.append((px + path * dx, pz + path * dz))
        paths.append(path)
    return (ends[0], ends[1]), sum(paths) / 2


def edge_panel(
    *, radius_m: float, foot_m: float, top_m: float, camera_height_m: float, camera_distance_m: float, distance_m: float,
    inner: float = 0.85, outer: float = 0.95,
) -> EdgePanel:  # fmt: skip
    """A panel whose image covers inner..outer of the product's half width, from foot to top.

        light from 2 asin(x / R) off the camera axis; panel edges on the rays from both ends of the line,
        heights y + s (y - c) / d  (see mirror)

    distance_m: of the panel's face from the product's axis, seen from above.
    Holds for:  R > 0, distance > R, 0 < inner < outer < 1, foot < top. Else DomainError.
    Limits:     the camera is far against the radius; the product is taken as an upright cylinder.
    Source:     law of reflection; 0.85 to 0.95 needs 116.4 to 143.6 degrees.
    """
    if not (radius_m > 0 and distance_m > radius_m and 0 < inner < outer < 1 and foot_m < top_m):
        raise DomainError(f"edge panel: {radius_m=}, {distance_m=}, {inner=}, {outer=}, {foot_m=}, {top_m=}")
    middle = (light_angle_rad(offset_ratio=inner) + light_angle_rad(offset_ratio=outer)) / 2
    ((ax, az), (bx, bz)), path = panel_ends(radius_m=radius_m, distance_m=distance_m, inner=inner, outer=outer)
    low, high = (
        mirror_height_m(wall_height_m=y, camera_height_m=camera_height_m, camera_distance_m=camera_distance_m, path_m=path)
        for y in (foot_m, top_m)
    )
    height = (high - low) * ABOVE
    return EdgePanel(
        x_m=(ax + bx) / 2, y_m=(low + high) / 2, z_m=(az + bz) / 2, turn_rad=middle - math.pi,
        width_m=max(math.hypot(ax - bx, az - bz), LEAST_WIDTH_M), height_m=height, low_m=low,
    )  # fmt: skip


def clear_distance_m(
    *, radius_m: float, table_width_m: float, table_depth_m: float, least_m: float, most_m: float = 1.6,
    inner: float = 0.85, outer: float = 0.95,
) -> float:  # fmt: skip
    """The least distance at which an edge panel stands beside or behind a table, so that it may reach below its top.

    most_m where none up to there does.
    """
    distance = least_m
    while distance < most_m:
        panel = edge_panel(
            radius_m=radius_m, foot_m=0.0, top_m=1.0, camera_height_m=0.5, camera_distance_m=2.0, distance_m=distance,
            inner=inner, outer=outer,
        )  # fmt: skip
        half = panel.width_m / 2 + CLEARS_M
        across = math.cos(panel.turn_rad), -math.sin(panel.turn_rad)
        places = [(panel.x_m + t * half * across[0], panel.z_m + t * half * across[1]) for t in LOOKED_AT]
        if all(abs(x) > table_width_m / 2 or z < -table_depth_m / 2 for x, z in places):
            return distance
        distance += 0.02
    return most_m
