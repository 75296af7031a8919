"""Products on the measured drawings: from above, and in elevation."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from markupsafe import escape

from fotaxis.core.geometry.profile import Profile, refine
from fotaxis.core.keys import PRODUCT_KEY
from fotaxis.core.scene.plan import Plan
from fotaxis.core.scene.product import Product
from fotaxis.core.values import Array
from fotaxis.web.views.svg_canvas import Paper, draw_dimension


def _product_group(plan: Plan, product: Product, *, selected: str, view: str) -> str:
    """The opening of a product's group: what stands beside the main product can be grabbed."""
    if product is plan.product:
        return f'<g class="product-group" data-key="{PRODUCT_KEY}">'
    where = f"{abs(product.x_m) * 100:.1f} cm {'right' if product.x_m >= 0 else 'left'}, "
    where += f"{abs(product.z_m) * 100:.1f} cm {'in front' if product.z_m >= 0 else 'behind'}"
    chosen = product.key == selected
    return (
        f'<g class="thing subject{" selected" if chosen else ""}" data-key="{escape(product.key)}" data-view="{view}" '
        f'tabindex="0" role="button" aria-pressed="{"true" if chosen else "false"}" aria-label="{escape(product.name)}: {where}">'
    )


def _outline_from_above(product: Product) -> Array:
    """Corners of what a product covers, seen from above, (n, 2) metres x, z, from its own axis."""
    shape = product.shape
    c, s = math.cos(product.turn_rad), math.sin(product.turn_rad)
    corners = shape.from_above
    if product.lying:
        profile = product.profile
        length = (profile.top_m - profile.foot_m) / 2
        corners = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * [profile.widest_m, length]
    elif corners is None:
        return np.empty((0, 2))
    turned: Array = corners @ np.array([[c, -s], [s, c]])
    return turned


def floor_product(plan: Plan, product: Product, paper: Paper, *, selected: str) -> str:
    """A product from above; one that stands beside the main one has its distances and, selected, a handle that turns it."""
    if not product.shape.seen:
        return ""
    x, y = paper.x(product.x_m * 100), paper.y(-product.z_m * 100)
    outline = _outline_from_above(product) * 100 * paper.scale
    if len(outline):
        points = " ".join(f"{x + a:.1f},{y + b:.1f}" for a, b in outline)
        body = f'<polygon class="product" points="{points}"/>'
    else:
        body = f'<circle class="product" cx="{x:.1f}" cy="{y:.1f}" r="{product.profile.widest_m * 100 * paper.scale:.1f}"/>'
    if product is not plan.product:
        reach = max(product.reach_m * 100 * paper.scale, 9.0)
        handle = reach + 15
        hx, hy = x + handle * math.sin(product.turn_rad), y + handle * math.cos(product.turn_rad)
        body = f'<circle class="grip" cx="{x:.1f}" cy="{y:.1f}" r="{reach + 6:.1f}"/>{body}'
        if product.key == selected:
            body += (
                f'<line class="stem" x1="{x:.1f}" y1="{y:.1f}" x2="{hx:.1f}" y2="{hy:.1f}"/>'
                f'<circle class="turn-handle" data-handle="turn" cx="{hx:.1f}" cy="{hy:.1f}" r="6.5"/>'
            )
            ox, oy = paper.x(0), paper.y(0)
            body += draw_dimension(x, oy, x, y, paper.measure(abs(product.z_m) * 100), at=0.6)
            body += draw_dimension(ox, oy, x, oy, paper.measure(abs(product.x_m) * 100))
    return _product_group(plan, product, selected=selected, view="floor") + body + "</g>"


def side_product(plan: Plan, product: Product, paper: Paper, *, selected: str) -> str:
    """A product in elevation."""
    if not product.shape.seen:
        return ""
    ground = plan.ground_m(product)
    outline = _outline_from_above(product)
    if product.lying or product.shape.side_is_a_box:
        low, high = outline[:, 1].min(), outline[:, 1].max()
        corners = [(low, 0.0), (high, 0.0), (high, product.height_m), (low, product.height_m)]
        points = " ".join(f"{paper.x((product.z_m + a) * 100):.1f},{paper.y((ground + b) * 100):.1f}" for a, b in corners)
    else:
        points = _silhouette(product.profile, ground, paper, round(product.z_m, 4))
    body = f'<polygon class="product" points="{points}"/>'
    return _product_group(plan, product, selected=selected, view="side") + body + "</g>"


@lru_cache(maxsize=32)
def _silhouette(profile: Profile, lift_m: float, paper: Paper, z_m: float) -> str:
    outline = refine(profile, segments=48).points * 100
    lift = (lift_m - profile.foot_m) * 100
    right = [(r, y + lift) for y, r in outline]
    points = [(z_m * 100 + r, y) for r, y in right + [(-r, y) for r, y in reversed(right)]]
    return " ".join(f"{paper.x(a):.1f},{paper.y(b):.1f}" for a, b in points)
