"""Parts of a model with materials of their own: the same as things of these materials that stand there."""

from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.errors import DomainError
from fotaxis.core.geometry.mesh import Mesh
from fotaxis.core.materials.catalogue import GLASS, SKIN
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.render.final.quality import FINAL
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.core.render.probe import probe_pixel, seen_at
from fotaxis.core.scene.product import ModelPart, Product, Vessel, Zone
from fotaxis.core.scene.products.box import Box
from fotaxis.core.scene.products.model import Modelled
from tests import scenes

LOW, HIGH = (
    Box(width_m=0.08, height_m=0.1, depth_m=0.06, edge_m=0.002),
    Box(width_m=0.05, height_m=0.06, depth_m=0.05, edge_m=0.001),
)
GOLD = SKIN["gold foil"].skin


def joined(*boxes):
    """Boxes one on the other as one mesh, a part each."""
    vertices, triangles, part_of, count, up = [], [], [], 0, 0.0
    for number, box in enumerate(boxes):
        mesh = box.mesh
        vertices.append(mesh.vertices + np.array([0, up, 0]))
        triangles.append(mesh.triangles + count)
        part_of.append(np.full(len(mesh.triangles), number))
        count += len(mesh.vertices)
        up += box.height_m + 0.001
    return Mesh.smooth(np.concatenate(vertices), np.concatenate(triangles), np.concatenate(part_of))


def set_with(product, **changes):
    return scenes.plan(product=product, riser=None, **changes)


def model(*skins, **more):
    parts = tuple(ModelPart(name=f"Part {n}", skin=skin) for n, skin in enumerate(skins, 1))
    return Product(name="Model", shape=Modelled(imported=joined(LOW, HIGH)), body=scenes.BLACK_GLASS, parts=parts, **more)


def picture(plan):
    return predict(plan, long_side=160, quality=FINAL).pictures.sum(axis=0)


def test_parts_look_like_things_of_these_materials_that_stand_there():
    # Whole pictures: a model of two boxes side by side, and two products. That both stand where they do is held by other tests.
    apart = 0.06
    meshes = [Modelled(imported=LOW.mesh).mesh, Modelled(imported=LOW.mesh).mesh]
    vertices = np.concatenate([mesh.vertices + np.array([x, 0, 0]) for mesh, x in zip(meshes, (-apart, apart), strict=True)])
    triangles = np.concatenate([meshes[0].triangles, meshes[1].triangles + len(meshes[0].vertices)])
    part_of = np.repeat([0, 1], len(meshes[0].triangles))
    one = Modelled(imported=Mesh.smooth(vertices, triangles, part_of))
    pair = Product(
        name="Pair", shape=one, body=scenes.BLACK_GLASS, parts=(ModelPart(name="Left"), ModelPart(name="Right", skin=GOLD))
    )
    single = [
        Product(name=name, shape=Modelled(imported=LOW.mesh), body=skin, x_m=x, key=name)
        for name, x, skin in (("one", -apart, scenes.BLACK_GLASS), ("two", apart, GOLD))
    ]
    camera = scenes.camera(height=0.25, aim=0.05, focal=0.08)
    plan = set_with(pair, camera=camera)
    got = predict(plan, long_side=160, quality=FINAL).pictures
    expected = predict(replace(plan, product=single[0], others=(single[1],)), long_side=160, quality=FINAL).pictures
    off = np.abs(got - expected).max(axis=(0, 3))
    assert expected.max() > 0
    assert np.quantile(off, 0.99) < 0.01 * expected.max()
    assert off.mean() < 1e-3 * expected.max()
    plain = predict(replace(plan, product=replace(pair, parts=())), long_side=160, quality=FINAL).pictures
    assert np.abs(plain - expected).max(axis=(0, 3)).mean() > 5 * off.mean()
    # The other way to say the same.
    swapped = replace(pair, body=GOLD, parts=(ModelPart(name="Left", skin=scenes.BLACK_GLASS), ModelPart(name="Right")))
    same = predict(replace(plan, product=swapped), long_side=160, quality=FINAL).pictures
    assert np.abs(same - got).mean() < 1e-3 * got.max()


def test_a_zone_lies_over_all_parts():
    band = Zone(low_m=0.09, high_m=0.12, skin=scenes.PAPER, name="Sleeve")
    seen = picture(set_with(model(None, GOLD, bands=(band,))))
    plain = picture(set_with(replace(model(None, None, bands=(band,)))))
    rows = [int(set_with(model()).camera.project(np.array([0, y, 0.03]), width=128, height=160)[1]) for y in (0.115, 0.104)]
    band_rows = slice(rows[0], rows[1])
    assert seen[band_rows, 55:73] == approx(plain[band_rows, 55:73], rel=0.15)  # gold above throws a little onto it
    above = slice(rows[0] - 10, rows[0] - 4)
    assert np.abs(seen - plain)[above, 55:73].mean() > 10 * plain[above, 55:73].mean()  # gold, where it was black glass


def test_pointing_at_a_part_tells_its_name():
    plan = set_with(model(None, GOLD))
    stage = trace_scene(plan, width=128, height=160)
    looked = probe_pixel(stage, plan, gains=np.ones(1 + len(plan.lights)))
    x, y = plan.camera.project(np.array([0, 0.13, 0.025]), width=1, height=1)
    assert seen_at(looked, x=x, y=y).zone == "Part 2"
    x, y = plan.camera.project(np.array([0, 0.05, 0.03]), width=1, height=1)
    assert seen_at(looked, x=x, y=y).zone == ""


def test_the_rest_of_a_model_can_be_solid_glass_under_a_cap():
    clear = Vessel(glass=GLASS["clear glass"].medium, wall_m=0.002, floor_m=0.002)
    capped = model(None, GOLD, vessel=clear)
    assert capped.bodies == 2
    block = Product(name="Block", shape=Modelled(imported=LOW.mesh), body=scenes.BLACK_GLASS, vessel=clear)
    got, alone = picture(set_with(capped)), picture(set_with(block))
    row = int(set_with(block).camera.project(np.array([0, 0.03, 0.03]), width=1, height=160)[1])
    low = slice(row - 8, row + 8)
    assert got[low].mean() == approx(alone[low].mean(), rel=0.25)  # the cap is mirrored inside
    assert np.abs(got - picture(set_with(model(None, GOLD))))[low].mean() > 0.05 * got[low].mean()
    with pytest.raises(DomainError, match="leave one of the product's"):
        model(scenes.PAPER, GOLD, vessel=clear)
    with pytest.raises(DomainError, match="only a model has parts"):
        replace(capped, shape=scenes.plan().product.shape, vessel=None)
