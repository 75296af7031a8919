"""Photographs of round products from the side, made without the engine: silhouette, ground and light by formula, invented."""

from __future__ import annotations

import math

import numpy as np
from scipy import ndimage

from fotaxis.core.geometry.profile import Profile, refine
from fotaxis.core.scene.products.turned import BOTTLE_CM
from fotaxis.services.beginnings import BEER, BURGUNDY, ROUND_FLACON
from fotaxis.services.presets import GOBLET, JAR, TUMBLER

OUTLINES = (BOTTLE_CM, BURGUNDY, BEER, ROUND_FLACON, JAR, TUMBLER, GOBLET)
FINE = 4
"""So many samples a pixel and side."""


def profile(outline):
    pairs = [(p["height_cm"], p["diameter_cm"]) if isinstance(p, dict) else p for p in outline]
    return Profile(heights_m=tuple(h / 100 for h, _ in pairs), radii_m=tuple(d / 200 for _, d in pairs))


def photograph(rng, product, *, height=700, width=560):
    """(height, width, 3) uint8 sRGB: dark, light or clear, before a ground that falls off, leaning up to 2 degrees, with grain."""
    outline = refine(product).points[1:-1]
    y, x = np.mgrid[0 : height * FINE, 0 : width * FINE]
    across = width * FINE * 0.8 / (2 * product.widest_m)
    per_m = min(height * FINE * rng.uniform(0.6, 0.85) / product.top_m, across)
    middle, foot, lean = (
        width * FINE * rng.uniform(0.47, 0.53),
        height * FINE * rng.uniform(0.88, 0.95),
        math.radians(rng.uniform(-2, 2)),
    )
    dx, dy = x + 0.5 - middle, foot - y - 0.5
    up = (dy * math.cos(lean) + dx * math.sin(lean)) / per_m
    out = (dx * math.cos(lean) - dy * math.sin(lean)) / per_m
    order = np.argsort(outline[:, 0], kind="stable")
    radius = np.interp(up, outline[order, 0], outline[order, 1], left=-1, right=-1)
    cover = (np.abs(out) <= radius).reshape(height, FINE, width, FINE).mean(axis=(1, 3))
    ground = tone = rng.uniform(0.05, 0.9)
    while not (tone * 1.25 < ground * 0.7 or tone * 0.75 > ground * 1.45):
        tone = rng.uniform(0.02, 0.95)
    down, right = np.mgrid[0:height, 0:width]
    wall = ground * (1 + rng.uniform(-0.25, 0.25) * (right / width - 0.5) + rng.uniform(-0.25, 0.25) * (down / height - 0.5))
    body = tone * (1 + 0.25 * np.cos(3 * (right - middle / FINE) / (width / 4)))
    levels = wall * (1 - cover) + body * cover
    if rng.integers(3) == 1:  # clear glass shows its edges, and the wall between them
        levels = np.where(ndimage.gaussian_filter(cover, 9) > 0.97, wall * 0.96, levels)
    levels = ndimage.gaussian_filter(levels, rng.uniform(0.3, 1.2))
    colours = np.stack([levels * rng.uniform(0.9, 1), levels, levels * rng.uniform(0.9, 1)], -1)
    return encoded(colours + rng.normal(0, 0.006, (height, width, 1)))


def encoded(levels):
    """Linear levels as sRGB bytes, IEC 61966-2-1."""
    levels = np.clip(levels, 0, 1)
    values = np.where(levels <= 0.0031308, 12.92 * levels, 1.055 * np.maximum(levels, 1e-9) ** (1 / 2.4) - 0.055)
    return (values * 255 + 0.5).clip(0, 255).astype(np.uint8)


def off(found, product, *, ends=0.01):
    """How far a true outline lies off a found one, in parts of the greatest width, at many places between both ends."""
    heights, radii = zip(*found, strict=True)
    got = refine(Profile(heights_m=heights, radii_m=radii), segments=2000).points[1:-1]
    true = refine(product, segments=600).points[1:-1]
    true = true[(true[:, 0] > ends * product.top_m) & (true[:, 0] < (1 - ends) * product.top_m)]
    return np.sqrt(((true[:, None] - got[None]) ** 2).sum(-1)).min(1) / (2 * product.widest_m)
