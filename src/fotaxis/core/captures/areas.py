"""Where the things of a set lie in the frame, pixel by pixel: what masks are made of."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.camera.camera import Camera
from fotaxis.core.columns import SEGMENT
from fotaxis.core.errors import DomainError
from fotaxis.core.keys import BACKGROUND_KEY, PRODUCT_KEY, RISER_KEY, TABLE_KEY
from fotaxis.core.materials.material import CLEAR, KIND, METAL
from fotaxis.core.render.arrays.pack_static_scene import surface_owners
from fotaxis.core.render.arrays.path_records import SKINS_PER_SURFACE
from fotaxis.core.render.mirrored import mirrors, zone_name
from fotaxis.core.render.preview.traced_scene import TracedScene
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array

PRODUCT, ZONE, PAPER, METALLIC, GLASS, LIQUID = "product", "zone", "paper", "metal", "glass", "liquid"
TABLE, BACKGROUND, BESIDE, LEFT, RIGHT = "table", "background", "beside", "left", "right"
AREA_WORDS = {
    PRODUCT: "the product", ZONE: "a zone of it", PAPER: "its paper and other matte skins", METALLIC: "its metal and foil",
    GLASS: "its glass and gloss", LIQUID: "its liquid", TABLE: "the table", BACKGROUND: "the background",
    BESIDE: "all beside the product", LEFT: "left of the axis", RIGHT: "right of the axis",
}  # fmt: skip
"""What a mask can be taken from, with its words."""

NOTHING = ""


@dataclass(frozen=True, kw_only=True)
class SceneAreas:
    """What each pixel of a picture sees first. All arrays (height, width).

    owner: number into `owners` of whose surface it is; zone: number into `zones` of the product's zone there, 0 its body and what
    is not the product; clear, mirrors, metal: of its skin; height_m, distance_m: of the place seen, over the
    table and from the lens along its axis, NaN where nothing is.
    axis_x: column of the product's axis at its foot; foot_y: row of its foot; mm_px: pixels of a millimetre there.
    liquid_m: heights over the table between which the product holds liquid, None for an empty or opaque one.
    """

    owners: tuple[str, ...]
    owner: NDArray[np.int16]
    zones: tuple[str, ...]
    zone: NDArray[np.int16]
    clear: NDArray[np.bool_]
    mirrors: NDArray[np.bool_]
    metal: NDArray[np.bool_]
    height_m: NDArray[np.float32]
    distance_m: NDArray[np.float32]
    axis_x: float
    foot_y: float
    mm_px: float
    liquid_m: tuple[float, float] | None

    @property
    def size(self) -> tuple[int, int]:
        """Width and height, pixels."""
        return self.owner.shape[1], self.owner.shape[0]

    def of(self, owner: str) -> NDArray[np.bool_]:
        """Pixels that see something of one owner."""
        return self.owner == self.owners.index(owner) if owner in self.owners else np.zeros(self.owner.shape, bool)

    def area(self, name: str, *, zone: str = "") -> NDArray[np.bool_]:
        """Pixels of a named area (AREA_WORDS), or of one thing beside the product by its key.

        Raises DomainError for a zone that the product does not have, or an area that is not known.
        """
        product = self.of(PRODUCT_KEY)
        if name == PRODUCT:
            return product
        if name == ZONE:
            parts = [i for i, known in enumerate(self.zones) if known and (known == zone or known.startswith(f"{zone}, "))]
            if not parts:
                known = ", ".join(sorted({z.split(", ")[0] for z in self.zones if z})) or "none"
                raise DomainError(f"the product shows no zone named {zone[:40]!r} here; its zones in the frame: {known}.")
            return product & np.isin(self.zone, parts)
        if name in (LEFT, RIGHT):
            columns = np.arange(self.owner.shape[1]) + 0.5
            side = columns < self.axis_x if name == LEFT else columns >= self.axis_x
            return np.broadcast_to(side, self.owner.shape)
        simple = {
            PAPER: product & ~self.mirrors, METALLIC: product & self.metal, GLASS: product & self.mirrors & ~self.metal,
            TABLE: self.of(TABLE_KEY) | self.of(RISER_KEY), BESIDE: ~product, LIQUID: self._liquid(product),
            BACKGROUND: self.of(BACKGROUND_KEY) | (self.owner == self.owners.index(NOTHING)),
        }  # fmt: skip
        if name in simple:
            return simple[name]
        if name in self.owners:
            return self.of(name)
        raise DomainError(f"{name[:40]!r} is no area of this frame; use one of {', '.join(AREA_WORDS)}, or a thing's key.")

    def _liquid(self, product: NDArray[np.bool_]) -> NDArray[np.bool_]:
        if self.liquid_m is None:
            return np.zeros(product.shape, bool)
        low, high = self.liquid_m
        return product & self.clear & (self.height_m >= low) & (self.height_m <= high)


def scene_areas(plan: Plan, stage: TracedScene) -> SceneAreas:
    """What each pixel of a traced picture sees first."""
    shape = stage.height, stage.width
    owners = (NOTHING, *dict.fromkeys(surface_owners(plan)))
    first = stage.traced.first
    seen = first >= 0
    whose = np.array([owners.index(owner) for owner in surface_owners(plan)], np.int16)
    owner = np.where(seen, whose[np.maximum(first, 0) // SKINS_PER_SURFACE], 0).astype(np.int16)
    skin = np.where(seen, first % SKINS_PER_SURFACE, 0)
    rows = stage.scene.skins[skin]
    on_product = owner == owners.index(PRODUCT_KEY) if PRODUCT_KEY in owners else np.zeros(len(owner), bool)
    zones, zone = _zones(plan, stage, skin, on_product)
    camera = plan.camera
    places = _places(stage, seen)
    ahead = ((places - camera.place.array().astype(np.float32)) @ camera.from_frame()[2].astype(np.float32)).astype(
        np.float32
    )
    foot = camera.project(np.array([0.0, plan.lift_m, 0.0]), width=stage.width, height=stage.height)
    return SceneAreas(
        owners=owners, owner=owner.reshape(shape), zones=zones, zone=zone.reshape(shape),
        clear=(seen & (rows[:, KIND] == CLEAR)).reshape(shape), mirrors=(seen & mirrors(rows)).reshape(shape),
        metal=(seen & (rows[:, KIND] == METAL)).reshape(shape),
        height_m=places[:, 1].reshape(shape), distance_m=ahead.reshape(shape), axis_x=float(foot[0]), foot_y=float(foot[1]),
        mm_px=millimetre_px(camera, plan.lift_m, width=stage.width, height=stage.height), liquid_m=_liquid_span(plan),
    )  # fmt: skip


def millimetre_px(camera: Camera, height_m: float, *, width: int, height: int) -> float:
    """How many pixels a millimetre across takes on the product's axis at a height over the table."""
    a = camera.project(np.array([-0.005, height_m, 0.0]), width=width, height=height)
    b = camera.project(np.array([0.005, height_m, 0.0]), width=width, height=height)
    return float(np.hypot(b[0] - a[0], b[1] - a[1])) / 10


def _zones(
    plan: Plan, stage: TracedScene, skin: Array, on_product: NDArray[np.bool_]
) -> tuple[tuple[str, ...], NDArray[np.int16]]:
    names: list[str] = [NOTHING]
    zone = np.zeros(len(skin), np.int16)
    for number in np.unique(skin[on_product]):
        name = zone_name(plan, PRODUCT_KEY, stage.scene.skins[int(number)])
        if name not in names:
            names.append(name)
        zone[on_product & (skin == number)] = names.index(name)
    return tuple(names), zone


def _places(stage: TracedScene, seen: NDArray[np.bool_]) -> NDArray[np.float32]:
    """What each pixel sees first, (pixels, 3) metres, NaN where that is nothing."""
    first = stage.traced.segments[stage.traced.starts[:-1]].astype(np.float64)
    long = first[:, SEGMENT.LENGTH]
    there = seen & np.isfinite(long) & (long < 1e3)
    ends = first[:, SEGMENT.ORIGIN] + np.where(there, long, 0.0)[:, None] * first[:, SEGMENT.DIRECTION]
    return np.where(there[:, None], ends, np.nan).astype(np.float32)


def _liquid_span(plan: Plan) -> tuple[float, float] | None:
    vessel = plan.product.vessel
    if vessel is None or vessel.liquid is None:
        return None
    return plan.lift_m + vessel.floor_m, plan.lift_m + vessel.level_m
