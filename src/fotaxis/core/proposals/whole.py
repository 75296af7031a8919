"""The picture as a whole, from ways on all over the product and from its faults."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fotaxis.core.frames.faults import CLIPPED, IN_FRAME, VEIL, Fault
from fotaxis.core.frames.whole_picture import WholePicture, images_of, lens_share
from fotaxis.core.proposals.survey import Ways, meets, zone_words
from fotaxis.core.render.preview.traced_scene import TracedScene
from fotaxis.core.scene.naming import names_of
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array


def whole_picture(
    plan: Plan, stage: TracedScene, ways: Ways, mirrored: Array, faults: Sequence[Fault], *, room_stops: float
) -> WholePicture:
    """ways: on from places spread evenly over the product; mirrored (n,): what each mirrors in the planned mix, linear, grey 0.18;
    room_stops: the brightest that the room alone makes."""
    things = (*plan.lights, *plan.cards)
    met = meets(plan, ways, things, camera=False)
    keys = [things[number].key if number >= 0 else ways.ends_on[k] for k, number in enumerate(met.face)]
    levels = np.where(ways.bare, mirrored, 0.0)
    toward = plan.camera.place.array() - ways.places
    along = (toward * ways.ways).sum(axis=1)
    aside = np.linalg.norm(toward - along[:, None] * ways.ways, axis=1)
    aside = np.where(ways.bare & (along > 0), aside, np.inf)
    told = {kind: tuple(one.words for one in faults if one.kind == kind) for kind in (VEIL, CLIPPED, IN_FRAME)}
    return WholePicture(
        mirrored=images_of(levels, keys, names_of(plan), ways.zone, zone_words(plan, stage.scene, ways)),
        lens=lens_share(levels, aside), room_stops=room_stops, veil=told[VEIL], hot=told[CLIPPED], in_frame=told[IN_FRAME],
    )  # fmt: skip
