"""Blocks of glass with flat sides: their hollow by hand, a slab's closed form, and whole pictures against Mitsuba 3.

The block's own mesh and its normals are given to the reference too, so they prove nothing about themselves: what is checked is how
light goes through them.
"""

import math
from dataclasses import replace

import numpy as np
import pytest

from fotaxis.core.errors import DomainError
from fotaxis.core.geometry.block import hollow_of
from fotaxis.core.geometry.mesh import Mesh, is_closed
from fotaxis.core.materials.catalogue import GLASS, LIQUID
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.scene.product import Product, Vessel
from fotaxis.core.scene.products.ball import Sphere
from fotaxis.core.scene.products.box import Box
from fotaxis.core.scene.products.model import Modelled
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.services.beginnings import begun
from tests import material_scenes as scenes_of
from tests import mitsuba_scene, scenes
from tests.core.render.test_materials_against_mitsuba import edges_agree, radiance_agrees, smooth_part

WIDTH, HEIGHT, DEPTH = 0.07, 0.09, 0.035
SIDE = 400


def block(*, level=0.0, turn=-25.0):
    glass = scenes_of.CLEAR
    vessel = Vessel(glass=glass, wall_m=0.006, floor_m=0.018, liquid=scenes_of.PLAIN_WATER if level else None, level_m=level)
    shape = Box(width_m=WIDTH, height_m=HEIGHT, depth_m=DEPTH, edge_m=0.004)
    return Product(name="Block", shape=shape, body=scenes.BLACK_GLASS, vessel=vessel, turn_rad=math.radians(turn))


def before_a_panel(product):
    return scenes_of.in_the_dark(product, cam=scenes.camera(height=0.08, aim=0.045, distance=0.5))


def with_the_reference(product):
    """What makes the block for the reference: dielectrics, the side of their normals outermost."""

    def made(mi):
        turn = product.turn_rad
        axes = np.array([[math.cos(turn), 0, -math.sin(turn)], [0, 1, 0], [math.sin(turn), 0, math.cos(turn)]])
        glass, hollow = product.vessel.glass.index, product.hollow()
        wet = product.vessel.liquid.index if product.vessel.liquid else 1.0
        parts = {
            "outside": (product.shape.mesh, glass, 1.0),
            "dry": (hollow.dry, glass, 1.0),
            "wet": (hollow.wet, glass, wet),
            "level": (hollow.level, wet, 1.0),
        }
        return {
            name: mitsuba_scene._mesh(
                mi,
                name,
                (mesh.vertices @ axes + [0, 2e-5, 0], mesh.normals @ axes, mesh.triangles),
                mitsuba_scene._between_media(behind, before),
            )
            for name, (mesh, behind, before) in parts.items()
            if mesh is not None
        }

    return made


@pytest.mark.mitsuba
@pytest.mark.filterwarnings("ignore")
@pytest.mark.parametrize("level", [0.0, 0.06], ids=["empty", "filled"])
def test_a_block_before_a_lit_panel(level):
    product = block(level=level)
    plan = before_a_panel(product)
    away = Product(name="Away", shape=Sphere(diameter_m=0.002), body=scenes.BLACK_GLASS, x_m=4.0)
    reference = mitsuba_scene.rendered(
        replace(plan, product=away),
        width=320,
        height=SIDE,
        passes=12,
        depth=40,
        more=with_the_reference(product),
        what=f"block {level}",
    )[..., 1]
    ours = predict(plan, long_side=SIDE).pictures[1:].sum(axis=0)[..., 1]
    edges_agree(ours, reference, least=150)
    in_glass = smooth_part(ours) & (ours < 0.97 * np.quantile(ours, 0.9))
    radiance_agrees(ours, reference, in_glass, within=0.03, least=400)


def test_the_hollow_by_hand():
    empty = hollow_of(width_m=WIDTH, height_m=HEIGHT, depth_m=DEPTH, wall_m=0.006, floor_m=0.018)
    assert empty.wet is None
    assert np.abs(empty.dry.vertices).max(axis=0) == pytest.approx([WIDTH / 2 - 0.006, HEIGHT - 0.006, DEPTH / 2 - 0.006])
    assert empty.dry.vertices[:, 1].min() == pytest.approx(0.018)
    filled = hollow_of(width_m=WIDTH, height_m=HEIGHT, depth_m=DEPTH, wall_m=0.006, floor_m=0.018, level_m=0.05)
    assert filled.wet.vertices[:, 1].max() == filled.level.vertices[0, 1] == filled.dry.vertices[:, 1].min() == 0.05
    middle = np.array([0.0, 0.034, 0.0])
    for mesh, inside in ((filled.wet, middle), (filled.dry, middle + np.array([0, 0.036, 0]))):
        corner = mesh.vertices[mesh.triangles[:, 0]]
        normal = mesh.normals[mesh.triangles[:, 0]]
        assert (np.einsum("ij,ij->i", inside - corner, normal) > 0).all()  # they look into the hollow
        p, q, r = (mesh.vertices[mesh.triangles[:, k]] for k in range(3))
        assert (np.einsum("ij,ij->i", np.cross(q - p, r - p), normal) > 0).all()


def test_a_block_lets_through_what_fresnel_leaves():
    """Square on before an even panel: four surfaces of glass in air, with light thrown to and fro between them.

    T = (1 - R) / (1 + 3 R) through two slabs without absorption. Source: Hecht, Optics, for a pile of plates of 2 m surfaces.
    """
    plan = before_a_panel(block(turn=0.0))
    plan = replace(plan, camera=scenes.camera(height=0.055, aim=0.055, distance=0.8))
    bare = predict(
        replace(plan, product=Product(name="Away", shape=Sphere(diameter_m=0.002), body=scenes.BLACK_GLASS, x_m=4.0)),
        long_side=160,
    )
    seen = predict(plan, long_side=160).pictures[1:].sum(axis=0)[..., 1]
    empty = bare.pictures[1:].sum(axis=0)[..., 1]
    row, column = 80, 64
    r = ((scenes_of.CLEAR.index - 1) / (scenes_of.CLEAR.index + 1)) ** 2
    assert empty[row, column] > 0
    # What it throws on beyond two reflections comes from elsewhere on the even panel, or from the dark before it.
    assert seen[row, column] / empty[row, column] == pytest.approx((1 - r) / (1 + 3 * r), rel=0.03)


@pytest.mark.parametrize(
    ("wall", "floor", "words"), [(0.018, 0.01, "no room for a hollow"), (0.006, 0.085, "leaves no hollow")]
)
def test_walls_that_leave_no_room_are_refused(wall, floor, words):
    with pytest.raises(DomainError, match=words):
        hollow_of(width_m=WIDTH, height_m=HEIGHT, depth_m=DEPTH, wall_m=wall, floor_m=floor)


def test_a_shot_holds_a_block_of_glass_and_its_level():
    codec = JsonShots()
    document = begun("block", codec)
    product = codec.plan(codec.check(document)).product
    assert product.vessel.glass == GLASS["clear glass"].medium
    assert product.vessel.liquid.index == pytest.approx(LIQUID["white wine"].medium.index)
    assert product.clear_bodies() == 4


def test_a_model_is_glass_where_its_mesh_is_closed():
    shape = Box(width_m=WIDTH, height_m=HEIGHT, depth_m=DEPTH, edge_m=0.004)
    vessel = Vessel(glass=scenes_of.CLEAR, wall_m=0.002, floor_m=0.002)
    model = Product(
        name="Model", shape=Modelled(imported=shape.mesh), body=scenes.BLACK_GLASS, vessel=vessel, turn_rad=math.radians(-25)
    )
    assert is_closed(shape.mesh)
    assert model.clear_bodies() == 1
    plan = before_a_panel(model)
    seen = predict(plan, long_side=160).pictures[1:].sum(axis=0)[..., 1]
    # The same solid block as a box without room: its hollow a millimetre, far from the places that are looked at.
    hole = Vessel(glass=scenes_of.CLEAR, wall_m=DEPTH / 2 - 0.0006, floor_m=HEIGHT - (DEPTH / 2 - 0.0006) - 0.0011)
    block_ = replace(plan, product=replace(model, shape=shape, vessel=hole))
    same = predict(block_, long_side=160).pictures[1:].sum(axis=0)[..., 1]
    low = slice(90, 160)  # under the hollow
    assert np.abs(seen - same)[low].mean() < 0.01 * seen[low].mean()
    open_ = Mesh(
        vertices=shape.mesh.vertices.copy(), normals=shape.mesh.normals.copy(), triangles=shape.mesh.triangles[8:].copy()
    )
    with pytest.raises(DomainError, match="open somewhere"):
        replace(model, shape=Modelled(imported=open_))
    with pytest.raises(DomainError, match="holds no liquid"):
        replace(model, vessel=replace(vessel, liquid=scenes_of.PLAIN_WATER, level_m=0.03))
