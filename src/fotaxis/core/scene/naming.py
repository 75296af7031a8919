"""What everything on a set is called in words."""

from __future__ import annotations

from fotaxis.core.keys import BACKGROUND_KEY, PRODUCT_KEY, RISER_KEY, ROOM_KEY, TABLE_KEY
from fotaxis.core.scene.plan import Plan


def names_of(plan: Plan) -> dict[str, str]:
    """Names by key: of lights, cards and products their own, of what a set has once 'the table', 'the background' ..."""
    names = {thing.key: thing.name for thing in (*plan.lights, *plan.cards, *plan.others)}
    return names | {
        PRODUCT_KEY: plan.product.name, TABLE_KEY: "the table", RISER_KEY: "the riser", BACKGROUND_KEY: "the background",
        ROOM_KEY: "the dark room",
    }  # fmt: skip
