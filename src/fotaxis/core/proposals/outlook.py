"""What a face would do where it is proposed: how much of the highlight it makes, what hides it, where else it is mirrored."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from fotaxis.core.lights.fixtures import Card, Light
from fotaxis.core.proposals.panel import Face
from fotaxis.core.proposals.survey import CAMERA_HIDES, Ways, meets, ways_on
from fotaxis.core.proposals.ways import MirroredWays
from fotaxis.core.render.arrays.static_scene import StaticScene
from fotaxis.core.scene.naming import names_of
from fotaxis.core.scene.plan import Plan

LEAST = 0.01
BETWEEN = 7
"""A line is looked at in so many places across."""

THE_CAMERA = "the camera"
SOMETHING_BLACK = "something black"


@dataclass(frozen=True, slots=True, kw_only=True)
class Outlook:
    """covered: how much of what mirrors in the highlight shows the face; hidden: what hides the rest, with how much of the highlight
    each; elsewhere: other zones of the product that mirror it, with how much of each."""

    covered: float
    hidden: tuple[tuple[str, float], ...]
    elsewhere: tuple[tuple[str, float], ...]


def highlight_ways(plan: Plan, scene: StaticScene, mirrored: MirroredWays, *, width: int, height: int) -> Ways:
    """Ways on from places all over a wished highlight, with what stands still on them."""
    if mirrored.is_line:
        part = np.linspace(0.02, 0.98, BETWEEN)[:, None]
        inner, outer = mirrored.spots[:, :1], mirrored.spots[:, 1:]
        spots = (inner + part * (outer - inner)).reshape(-1, 2)
    else:
        spots = mirrored.spots[mirrored.there]
    return ways_on(plan, scene, spots, width=width, height=height)


def outlook(
    plan: Plan, face: Face, own: Ways, whole: Ways, zones: dict[int, str], others: Sequence[Light | Card]
) -> Outlook:
    """own: ways of the highlight; whole: of the product all over, with its zones' names; others: lights and cards beside the face."""
    names = names_of(plan)
    faces = [face, *others]
    met = meets(plan, own, faces)
    covered = float((met.face == 0)[own.bare].mean()) if own.bare.any() else 0.0
    hides: Counter[str] = Counter()
    would = meets(plan, replace(own, free_m=np.full(len(own), np.inf)), [face], camera=False).face == 0
    for k in np.flatnonzero(met.face != 0):
        number = int(met.face[k])
        if not own.bare[k]:
            hides[zones.get(int(own.zone[k]), "what is matte there")] += 1
        elif number == CAMERA_HIDES:
            hides[THE_CAMERA] += 1
        elif number > 0:
            hides[others[number - 1].name] += 1
        elif number < 0 and would[k] and np.isfinite(own.free_m[k]):
            hides[names.get(own.ends_on[k]) or own.ends_on[k] or SOMETHING_BLACK] += 1
    seen = meets(plan, whole, faces, camera=False).face == 0
    seen &= whole.bare & ~_among(whole, own)
    elsewhere = []
    for zone, name in zones.items():
        of = whole.zone == zone
        share = float(seen[of].mean()) if of.any() else 0.0
        if share >= LEAST:
            elsewhere.append((name, share))
    total = max(len(own), 1)
    return Outlook(
        covered=covered,
        hidden=tuple((name, count / total) for name, count in hides.most_common() if count / total >= LEAST),
        elsewhere=tuple(sorted(elsewhere, key=lambda pair: -pair[1])),
    )  # fmt: skip


def _among(whole: Ways, own: Ways) -> np.ndarray:
    """Which places of the whole lie within the rectangle around a highlight."""
    low, high = own.spots.min(axis=0), own.spots.max(axis=0)
    slack = 0.02
    found: np.ndarray = ((whole.spots > low - slack) & (whole.spots < high + slack)).all(axis=1)
    return found
