"""The part of a plan that stands still, laid out as the flat arrays the kernels read."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import BODY, FLAT, ZONE
from fotaxis.core.geometry import orientation, planar, revolution, solids
from fotaxis.core.geometry.mesh import Ints, Mesh, smooth_patches, tree
from fotaxis.core.geometry.profile import Outline, Profile, refine
from fotaxis.core.keys import BACKGROUND_KEY, PRODUCT_KEY, RISER_KEY, TABLE_KEY
from fotaxis.core.materials import artwork as art
from fotaxis.core.materials.artwork import Artwork
from fotaxis.core.materials.bsdf import ALBEDO_STEPS, rough_coat_albedo
from fotaxis.core.materials.catalogue import REAR_PAINT_INDEX
from fotaxis.core.materials.material import ACROSS, AIR, ALONG, BACK, COAT, ENTRY, GLASS_SKIN, INNER, KIND, OPAQUE, Medium
from fotaxis.core.materials.material import COLUMNS as SKIN_COLUMNS
from fotaxis.core.render.arrays.static_scene import AROUND, MESH, REVOLUTION, StaticScene
from fotaxis.core.scene.plan import Plan, Table
from fotaxis.core.scene.product import FACES, Product, stands
from fotaxis.core.values import Array

SUBJECT = 0
NO_PRODUCT = -1.0
TOUCH_M = 2e-5
"""Gap between a thing and what it stands on, so that their faces do not coincide."""

IN_AIR, NOTHING_BEHIND = 0, -1
OPAQUE_MEDIA = (IN_AIR, NOTHING_BEHIND)
UPRIGHT_AXES = np.eye(3)


class _Outline:
    """An outline as a key of a cache: the same object is the same outline."""

    def __init__(self, outline: Outline) -> None:
        self.outline = outline

    def __hash__(self) -> int:
        return id(self.outline)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Outline) and other.outline is self.outline


@lru_cache(maxsize=64)
def _packed(outline: _Outline) -> tuple[Array, Array]:
    return revolution.pack(outline.outline)


class _Builder:
    """Collects surfaces, skins and media, then joins them."""

    def __init__(self) -> None:
        self.skins: list[list[float]] = []
        self.media: list[list[float]] = [AIR.absorption()]
        self.frusta: list[Array] = [np.empty((0, 10))]
        self.groups: list[Array] = [np.empty((0, 7))]
        self.vertices: list[Array] = [np.empty((0, 3))]
        self.normals: list[Array] = [np.empty((0, 3))]
        self.triangles: list[Ints] = [np.empty((0, 3), np.int64)]
        self.boxes: list[Array] = [np.empty((0, 6))]
        self.links: list[Ints] = [np.empty((0, 3), np.int64)]
        self.frustum_patch: list[Ints] = [np.empty(0, np.int64)]
        self.triangle_patch: list[Ints] = [np.empty(0, np.int64)]
        self.bodies: list[list[float]] = []
        self.spans: list[list[int]] = []
        self.bounds: list[list[float]] = []
        self.body_media: list[tuple[int, int]] = []
        self.body_skin: list[int] = []
        self.zones: list[list[float]] = []
        self.artworks: list[list[int]] = []
        self.artwork_rows: dict[str, int] = {}
        self.texels: list[NDArray[np.uint8]] = [np.empty((0, art.TEXEL_COLUMNS), np.uint8)]
        self.pressed: list[NDArray[np.float32]] = [np.empty((0, 2), np.float32)]
        self.flats: list[Array] = []
        self.flat_media: list[tuple[int, int]] = []
        self.flat_skin: list[int] = []

    def skin(self, row: list[float]) -> int:
        if row not in self.skins:
            self.skins.append(row)
        return self.skins.index(row)

    def medium(self, medium: Medium) -> int:
        row = medium.absorption()
        if row in self.media[1:]:
            return self.media.index(row, 1)
        self.media.append(row)
        return len(self.media) - 1

    def artwork(self, picture: Artwork) -> int:
        if picture.mark not in self.artwork_rows:
            texels, count = art.levels(picture)
            first, pressed = sum(map(len, self.texels)), -1
            if picture.pressed is not None:
                pressed = sum(map(len, self.pressed))
                self.pressed.append(art.pressed_slopes(picture))
            height, width = picture.texels.shape[:2]
            self.texels.append(texels)
            self.artwork_rows[picture.mark] = len(self.artworks)
            self.artworks.append([first, width, height, count, pressed])
        return self.artwork_rows[picture.mark]

    def flat(self, row: Array, skin: int, media: tuple[int, int] = (IN_AIR, IN_AIR)) -> None:
        self.flats.append(row)
        self.flat_skin.append(skin)
        self.flat_media.append(media)

    def _body(
        self, kind: float, origin: Array, axes: Array, bounds: list[float], media: tuple[int, int], skin: int, product: float,
        clear: bool, half: tuple[float, float, float] = (0.0, 0.0, 0.0),
    ) -> int:  # fmt: skip
        upright = 1.0 if np.allclose(axes, UPRIGHT_AXES) else 0.0
        self.bodies.append([*origin, *axes.ravel(), kind, upright, 0.0, 0.0, product, float(clear), *half])
        self.bounds.append(bounds)
        self.body_media.append(media)
        self.body_skin.append(skin)
        return len(self.bodies) - 1

    def turned(
        self, outline: Outline, origin: Array, axes: Array, bounds: list[float], media: tuple[int, int], skin: int,
        product: float, clear: bool = False,
    ) -> int:  # fmt: skip
        frusta, groups = _packed(_Outline(outline))
        first, group = sum(map(len, self.frusta)), sum(map(len, self.groups))
        self.spans.append([first, first + len(frusta), group, group + len(groups)])
        self.frusta.append(frusta)
        self.groups.append(groups)
        self.frustum_patch.append(revolution.smooth_runs(frusta))
        return self._body(REVOLUTION, origin, axes, bounds, media, skin, product, clear)

    def mesh(
        self, mesh: Mesh, origin: Array, axes: Array, bounds: list[float], skin: int, product: float,
        half: tuple[float, float, float] = (0.0, 0.0, 0.0), media: tuple[int, int] = OPAQUE_MEDIA, clear: bool = False,
    ) -> int:  # fmt: skip
        triangles, boxes, links = tree(mesh)
        vertex, triangle, node = (sum(map(len, part)) for part in (self.vertices, self.triangles, self.boxes))
        self.spans.append([node, vertex, vertex + len(mesh.vertices), 0])
        self.vertices.append(mesh.vertices)
        self.normals.append(mesh.normals)
        self.triangles.append(triangles + vertex)
        self.triangle_patch.append(smooth_patches(mesh))
        self.boxes.append(boxes)
        self.links.append(links + np.array([triangle, 0, node]))
        return self._body(MESH, origin, axes, bounds, media, skin, product, clear, half)

    def _coat_albedo(self) -> Array:
        rows = np.zeros((len(self.skins), ALBEDO_STEPS + 1))
        for number, skin in enumerate(self.skins):
            if skin[COAT] > 0.0 and skin[KIND] == OPAQUE and skin[ALONG] > 0.0:
                rows[number] = rough_coat_albedo(skin[COAT], skin[ALONG], skin[ACROSS], skin[BACK])
        return rows

    def scene(self) -> StaticScene:
        return StaticScene(
            frusta=np.concatenate(self.frusta), groups=np.concatenate(self.groups),
            bodies=np.array(self.bodies, np.float64).reshape(-1, BODY.COUNT),
            spans=np.array(self.spans, np.int64).reshape(-1, 4), bounds=np.array(self.bounds, np.float64).reshape(-1, 5),
            flats=np.array(self.flats, np.float64).reshape(-1, FLAT.COUNT),
            media_of=np.array([*self.flat_media, *self.body_media], np.int64).reshape(-1, 2),
            zones=np.array(self.zones, np.float64).reshape(-1, ZONE.COUNT),
            skin_of=np.array([*self.flat_skin, *self.body_skin], np.int64),
            skins=np.array(self.skins, np.float64).reshape(-1, SKIN_COLUMNS),
            media=np.array(self.media, np.float64), vertices=np.concatenate(self.vertices),
            normals=np.concatenate(self.normals), triangles=np.concatenate(self.triangles),
            boxes=np.concatenate(self.boxes), links=np.concatenate(self.links),
            frustum_patch=np.concatenate(self.frustum_patch), triangle_patch=np.concatenate(self.triangle_patch),
            coat_albedo=self._coat_albedo(),
            artworks=np.array(self.artworks, np.int64).reshape(-1, art.ARTWORK_COLUMNS),
            texels=np.concatenate(self.texels), pressed=np.concatenate(self.pressed),
        )  # fmt: skip


def pack_static_scene(plan: Plan) -> StaticScene:
    """Products, riser, table and background of a plan as kernel arrays."""
    made = _Builder()
    for number, product in enumerate(plan.products):
        if not product.shape.seen:
            continue
        _add_product(made, product, plan.ground_m(product), float(number))
    if plan.riser:
        r = plan.riser
        block = Profile(heights_m=(0.0, r.height_m), radii_m=(r.diameter_m / 2, r.diameter_m / 2))
        bounds = [0.0, 0.0, r.diameter_m / 2, 0.0, r.height_m]
        made.turned(refine(block), np.zeros(3), UPRIGHT_AXES, bounds, OPAQUE_MEDIA, made.skin(r.skin.row()), NO_PRODUCT)
    if plan.table:
        _add_table(made, plan.table)
    if plan.background:
        b = plan.background
        across, up, front = orientation.axes(turn_rad=0, tilt_rad=0)
        row = planar.row(centre=np.array([0, b.centre_height_m, -b.distance_m]), across=across, up=up, front=front,
                       half_width_m=b.width_m / 2, half_height_m=b.height_m / 2)  # fmt: skip
        made.flat(row, made.skin(b.skin.row()))
    return made.scene()


def surface_owners(plan: Plan) -> list[str]:
    """Whose each surface of still_set is, in its order, flats first: a product's key, riser, table or background."""
    flats, bodies = [], []
    for product in plan.products:
        if not product.shape.seen:
            continue
        bodies += [PRODUCT_KEY if product is plan.product else product.key] * product.bodies
    if plan.riser:
        bodies.append(RISER_KEY)
    if plan.table and plan.table.sweep_m:
        bodies.append(TABLE_KEY)
    elif plan.table:
        flats += [TABLE_KEY] * (2 if plan.table.medium else 1)
    if plan.background:
        flats.append(BACKGROUND_KEY)
    return flats + bodies


def _add_product(made: _Builder, product: Product, lift: float, number: float) -> None:
    origin, axes = stands(product, lift + TOUCH_M)
    bounds = [product.x_m, product.z_m, product.reach_m, lift, lift + product.height_m + 2 * TOUCH_M]
    shape = product.shape
    pieces = product.pieces() if shape.mesh is not None else ()
    if product.vessel:
        body = _add_vessel(made, product, origin, axes, bounds, number)
    elif shape.turned is not None:
        body = made.turned(shape.turned, origin, axes, bounds, OPAQUE_MEDIA, made.skin(product.body.row()), number)
    else:
        assert pieces, "a shape is turned or a mesh"
        mesh, skin = pieces[0]
        body = made.mesh(mesh, origin, axes, bounds, made.skin((skin or product.body).row()), number, shape.half_sizes_m)
    zoned = [body]
    for mesh, skin in pieces[1:]:
        assert skin is not None
        zoned.append(made.mesh(mesh, origin, axes, bounds, made.skin(skin.row()), number, shape.half_sizes_m))
    for band in product.bands:
        skins = {name: made.skin(row) for name, row in band.skin_rows().items()}
        picture = made.artwork(band.artwork.picture) if band.artwork else -1
        middle, half_up = (band.low_m + band.high_m) / 2, (band.high_m - band.low_m) / 2
        face, across, half_across = AROUND, _wrapped(band.azimuth_rad), band.width_rad / 2
        if band.face:
            face, across, half_across = float(FACES[band.face]), band.centre_m, band.width_m / 2
        cut = float(bool(band.artwork and band.artwork.cut))
        finishes = skins.get("foil", -1), skins.get("varnish", -1)
        for one in zoned:
            made.bodies[one][BODY.ZONED] = 1.0
            made.zones.append(
                [one, face, across, half_across, middle, half_up, skins[""], float(band.ellipse), picture, cut, *finishes]
            )


def _add_vessel(made: _Builder, product: Product, origin: Array, axes: Array, bounds: list[float], number: float) -> int:
    """Outer wall (which carries the zones), inner wall dry and wet, the liquid's top; returns the number of the outer."""
    assert product.vessel is not None
    if product.shape.turned is None:
        return _add_block(made, product, origin, axes, bounds, number)
    walls = product.walls()
    glass = made.medium(product.vessel.glass)
    bare = made.skin(GLASS_SKIN.row())
    body = made.turned(walls.outer, origin, axes, bounds, (IN_AIR, glass), bare, number, True)
    made.turned(walls.dry, origin, axes, bounds, (IN_AIR, glass), bare, number, True)
    if walls.wet is not None and walls.level is not None and product.vessel.liquid:
        liquid = made.medium(product.vessel.liquid)
        made.turned(walls.wet, origin, axes, bounds, (liquid, glass), bare, number, True)
        made.turned(walls.level, origin, axes, bounds, (IN_AIR, liquid), bare, number, True)
    return body


def _add_block(made: _Builder, product: Product, origin: Array, axes: Array, bounds: list[float], number: float) -> int:
    """A block of glass with flat sides and a hollow, or a model of solid glass."""
    assert product.vessel is not None
    assert product.shape.mesh is not None
    glass = made.medium(product.vessel.glass)
    bare = made.skin(GLASS_SKIN.row())

    def add(mesh: Mesh, media: tuple[int, int], half: tuple[float, float, float] = (0.0, 0.0, 0.0)) -> int:
        return made.mesh(mesh, origin, axes, bounds, bare, number, half, media, True)

    body = add(product.pieces()[0][0], (IN_AIR, glass), product.shape.half_sizes_m)
    if product.shape.solid:
        return body
    inside = product.hollow()
    add(inside.dry, (IN_AIR, glass))
    if inside.wet is not None and inside.level is not None and product.vessel.liquid:
        liquid = made.medium(product.vessel.liquid)
        add(inside.wet, (liquid, glass))
        add(inside.level, (IN_AIR, liquid))
    return body


def _add_table(made: _Builder, t: Table) -> None:
    across, up, front = np.array([1.0, 0, 0]), np.array([0, 0, -1.0]), np.array([0, 1.0, 0])

    def top(height: float) -> Array:
        return planar.row(centre=np.array([t.x_m, height, t.z_m]), across=across, up=up, front=front,
                        half_width_m=t.width_m / 2, half_height_m=t.depth_m / 2)  # fmt: skip

    skin = t.skin.row()
    if t.sweep_m:
        half = t.depth_m / 2
        paper = solids.sweep(
            width_m=t.width_m, front_m=half, back_m=half, height_m=t.sweep_m, bend_m=t.bend_m, drop_m=t.drop_m,
            front_bend_m=t.front_bend_m,
        )  # fmt: skip
        bounds = [t.x_m, t.z_m, math.hypot(t.width_m / 2, half), -TOUCH_M - t.drop_m, t.sweep_m]
        made.mesh(
            paper, np.array([t.x_m, 0.0, t.z_m]), UPRIGHT_AXES, bounds, made.skin(skin), NO_PRODUCT, media=(IN_AIR, IN_AIR)
        )
    elif t.medium:
        glass = made.medium(t.medium)
        made.flat(top(0.0), made.skin(GLASS_SKIN.row()), (IN_AIR, glass))
        # The paint mirrors by its own index; its matte part is lit and seen through the glass (INNER, ENTRY of the glass).
        assert skin[INNER] <= 1.0 <= skin[ENTRY]
        skin[COAT] = REAR_PAINT_INDEX
        made.flat(top(-t.rear_m), made.skin(skin), (glass, NOTHING_BEHIND))
    else:
        made.flat(top(0.0), made.skin(skin))


def _wrapped(angle: float) -> float:
    return (angle + math.pi) % (2 * math.pi) - math.pi
