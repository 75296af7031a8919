"""Rough gloss: directions drawn from the microfacets that are seen, evenly spread, with their weights."""

from __future__ import annotations

import math

from fotaxis.core.kernel import leaf

GOLDEN = 0.6180339887498949


@leaf
def seen_facet(
    vx: float, vy: float, vz: float, along: float, across: float, u: float, v: float
) -> tuple[float, float, float]:
    """A microfacet normal among those seen from a direction v (vz > 0), both in the surface's frame (z its normal).

    along, across: GGX roughness along x and y; u, v: place in the unit square.
    Source:     Heitz 2018, Sampling the GGX Distribution of Visible Normals.
    """
    hx, hy, hz = along * vx, across * vy, vz
    length = math.sqrt(hx * hx + hy * hy + hz * hz)
    hx, hy, hz = hx / length, hy / length, hz / length
    flat = hx * hx + hy * hy
    if flat > 1e-14:
        scale = 1.0 / math.sqrt(flat)
        ax, ay = -hy * scale, hx * scale
    else:
        ax, ay = 1.0, 0.0
    bx, by, bz = -hz * ay, hz * ax, hx * ay - hy * ax
    r = math.sqrt(u)
    phi = 2.0 * math.pi * v
    p = r * math.cos(phi)
    q = r * math.sin(phi)
    s = 0.5 * (1.0 + hz)
    q = (1.0 - s) * math.sqrt(max(0.0, 1.0 - p * p)) + s * q
    w = math.sqrt(max(0.0, 1.0 - p * p - q * q))
    nx = along * (p * ax + q * bx + w * hx)
    ny = across * (p * ay + q * by + w * hy)
    nz = max(1e-9, q * bz + w * hz)
    length = math.sqrt(nx * nx + ny * ny + nz * nz)
    return nx / length, ny / length, nz / length


@leaf
def smith_lambda(x: float, y: float, z: float, along: float, across: float) -> float:
    """Smith's Lambda of the GGX distribution for a direction in the surface's frame; G1 = 1 / (1 + Lambda).

    Source:     Heitz 2014, Understanding the Masking-Shadowing Function, equation 72 (anisotropic: stretched).
    """
    a2 = (along * x) ** 2 + (across * y) ** 2
    return 0.5 * (math.sqrt(1.0 + a2 / max(z * z, 1e-18)) - 1.0)


@leaf
def lobe_weight(vx: float, vy: float, vz: float, lx: float, ly: float, lz: float, along: float, across: float) -> float:
    """G2 / G1 of a direction l mirrored at a seen facet: what a drawn direction carries besides Fresnel's share."""
    view = smith_lambda(vx, vy, vz, along, across)
    light = smith_lambda(lx, ly, lz, along, across)
    return (1.0 + view) / (1.0 + view + light)


@leaf
def lobe_density(vx: float, vy: float, vz: float, hx: float, hy: float, hz: float, along: float, across: float) -> float:
    """How densely directions mirrored at the seen facet h lie, per steradian:  D(h) G1(v) / (4 cos v).

    D = 1 / (pi ax ay ((hx/ax)^2 + (hy/ay)^2 + hz^2)^2)
    """
    k = (hx / along) ** 2 + (hy / across) ** 2 + hz * hz
    facets = 1.0 / (math.pi * along * across * k * k)
    return facets / ((1.0 + smith_lambda(vx, vy, vz, along, across)) * 4.0 * vz)


@leaf
def spread_place(i: int, count: int, shift_u: float, shift_v: float) -> tuple[float, float]:
    """Place i of `count` evenly spread in the unit square (golden-ratio lattice), all moved round by a shift."""
    u = (i + 0.5) / count + shift_u
    v = i * GOLDEN + shift_v
    return u - math.floor(u), v - math.floor(v)


@leaf
def mirrored_at_facet(
    vx: float, vy: float, vz: float, along: float, across: float, u: float, v: float
) -> tuple[float, float, float, float, float, float, float]:
    """A facet seen from v, as seen_facet draws it, and where it mirrors: normal, cosine to v, direction; the last may lie below."""
    hx, hy, hz = seen_facet(vx, vy, vz, along, across, u, v)
    c = vx * hx + vy * hy + vz * hz
    return hx, hy, hz, c, 2.0 * c * hx - vx, 2.0 * c * hy - vy, 2.0 * c * hz - vz


ENERGY_FACETS = 64
LEAST_ENERGY = 0.05


@leaf
def lobe_energy(vx: float, vy: float, vz: float, along: float, across: float) -> float:
    """What facets that mirror everything send on at their first mirroring, seen from a direction: 1 less what meets others."""
    total = 0.0
    for i in range(ENERGY_FACETS):
        u, v = spread_place(i, ENERGY_FACETS, 0.0, 0.0)
        _, _, _, _, lx, ly, lz = mirrored_at_facet(vx, vy, vz, along, across, u, v)
        if lz > 1e-5:
            total += lobe_weight(vx, vy, vz, lx, ly, lz, along, across)
    return max(total / ENERGY_FACETS, LEAST_ENERGY)


@leaf
def cosine_direction(u: float, v: float) -> tuple[float, float, float]:
    """A direction of the upper hemisphere in proportion to its cosine, z up."""
    r = math.sqrt(u)
    phi = 2.0 * math.pi * v
    return r * math.cos(phi), r * math.sin(phi), math.sqrt(max(0.0, 1.0 - u))
