"""Light thrown up by the table, against closed forms."""

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.materials.bsdf import albedo
from fotaxis.core.materials.catalogue import TABLE_SKIN
from fotaxis.core.materials.fresnel import reflectance
from fotaxis.core.materials.material import Skin
from fotaxis.core.render.arrays.pack_emitters import pack_emitters, table_top
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.arrays.table_top import cell_albedo, table_cells
from fotaxis.core.render.grids.irradiance_grid import interpolate_to
from fotaxis.core.render.lighting import FINE, lighting
from fotaxis.core.render.transport.illuminance import polygon_illuminance_lux
from fotaxis.core.render.transport.table_bounce import add_table_bounce
from fotaxis.core.values import Reflectance
from tests import scenes

TINY = scenes.cylinder(radius=0.0005, height=0.002)


def table_plan(skin, *, width=4.0, lights=(), cards=()):
    plan = scenes.bare(TINY, lights=lights, cards=cards)
    return replace(plan, table=replace(scenes.plan().table, skin=skin, width_m=width, depth_m=width))


def place_at(x, y, z, normal):
    return np.array([[x, y, z, *normal, 0.0, 1.0]], np.float32)


def test_mirrored_light_is_that_of_the_mirror_image_times_fresnel():
    # A small far panel: one angle of incidence. Image: the panel below the table; the place faces it level.
    panel = scenes.panel("p", x=0, y=1.0, z=2.0, turn=180, tilt=-26.5, width=0.1, height=0.1)
    plan = table_plan(Skin(reflectance=Reflectance.grey(0.0), coat_index=1.49), lights=(panel,))
    still = pack_static_scene(plan)
    lit = lighting(plan, still, FINE)
    found = float(lit.from_table(place_at(0, 0.2, 0, (0, 0, 1)))[0, 0, 1])
    f = lit.emitters.flats[0]
    corners = np.array([f[:3] + a * f[12] * f[3:6] + b * f[13] * f[6:9] for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))])
    below = corners * np.array([1, -1, 1])
    image = polygon_illuminance_lux(
        corners=below[::-1], point=np.array([0, 0.2, 0]), normal=np.array([0, 0, 1.0]),
        luminance_cd_m2=panel.full_luminance,
    )  # fmt: skip
    cosine = 1.2 / math.hypot(1.2, 2.0)
    # Tolerance: the panel is 3 degrees high, over which Fresnel's share bends by less than half a percent.
    assert found == approx(image * reflectance(cosine, 1.49), rel=0.005)


def test_a_card_before_the_mirrored_way_stops_it():
    panel = scenes.panel("p", x=0, y=1.0, z=2.0, turn=180, tilt=-26.5, width=0.1, height=0.1)
    gloss = Skin(reflectance=Reflectance.grey(0.0), coat_index=1.49)
    spot = place_at(0, 0.2, 0, (0, 0, 1))
    # By hand: the way meets the table at z = 2 * 0.2 / 1.2 = 0.33; a card at z = 0.2 stands between, 8 cm of way high.
    for z, open_ in ((0.2, False), (0.5, False), (2.5, True)):
        card = scenes.card("flag", x=0, y=0.1, z=z, turn=0, width=0.6, height=0.3, reflectance=0.0)
        plan = table_plan(gloss, lights=(panel,), cards=(card,))
        light = float(lighting(plan, pack_static_scene(plan), FINE).from_table(spot)[0, 0, 1])
        assert (light > 0) is open_, z


def test_an_even_white_plane_gives_half_of_what_surrounds():
    # View factors of an infinite plane: 1/2 from an upright element, 1 from one facing it. Tolerance: the table ends at
    # 10 m, 50 times the height (2 % of the upright one), and 40 rings cover four decades (2 %).
    plan = table_plan(Skin(reflectance=Reflectance.grey(1.0)), width=20.0, lights=(scenes.panel("p", y=9.0),))
    still = pack_static_scene(plan)
    table = table_top(plan, rings=40, around=60, lights=len(plan.lights))
    table.light[:] = 1.0
    out = np.zeros((2, 1, 3), np.float32)
    places = np.concatenate([place_at(0, 0.2, 0, (0, 0, 1)), place_at(0, 0.2, 0, (0, -1, 0))])
    movables = pack_emitters(plan, still)
    add_table_bounce(still, movables, table, 1, places, 0, 2, out)
    assert out[0, 0, 1] == approx(math.pi / 2, rel=0.04)
    assert out[1, 0, 1] == approx(math.pi, rel=0.02)


@pytest.mark.parametrize(("w", "d"), [(0.3, 0.25), (0.6, 0.2), (1.0, 1.0)])
def test_cells_cover_the_table_once(w, d):
    cells, places = table_cells(half_width=w, half_depth=d, inner=0.03, rings=16, around=40)
    assert len(places) == len(cells) > 100
    assert cells[:, 2].sum() == approx(4 * w * d - math.pi * 0.03**2, rel=0.02)  # cells at the rim are counted in fifths
    assert (np.abs(cells[:, 0]) <= w).all()
    assert (np.abs(cells[:, 1]) <= d).all()


def test_a_patterned_table_throws_the_mean_of_its_pattern():
    # By hand: of a board half pale, half dark the bounce is that of a plain board of the mean. The pattern is read at places of our
    # own on a fine lattice, independent of the cells; tolerance: the pattern's own spread over the cells.
    wood = TABLE_SKIN["light wood"].skin
    skin = np.array([wood.row()])
    x, z = np.meshgrid(np.linspace(-0.3, 0.3, 240), np.linspace(-0.25, 0.25, 200))
    seen = np.array(
        [[albedo(skin, 0, c, u, -w) for c in range(3)] for u, w in zip(x.ravel()[::7], z.ravel()[::7], strict=True)]
    )
    cells, places = table_cells(half_width=0.3, half_depth=0.25, inner=0.01, rings=16, around=40)
    mean = (cell_albedo(skin, places) * cells[:, 2:]).sum(axis=0) / cells[:, 2].sum()
    assert mean == approx(seen.mean(axis=0), rel=0.02)
    assert mean[1] < 0.95 * skin[0, 1]  # the pale colour alone would be too bright


def test_a_place_on_the_table_gets_nothing_from_it():
    plan = table_plan(Skin(reflectance=Reflectance.grey(0.8), coat_index=1.49), lights=(scenes.panel("p"),))
    lit = lighting(plan, pack_static_scene(plan), FINE)
    assert lit.from_table(place_at(0.1, 0.0, 0.1, (0, 1, 0))).max() == 0
    assert lit.from_table(place_at(0.1, 0.1, 0.1, (0, 1, 0))).max() == 0  # faces away


def test_refining_keeps_linear_fields_exactly():
    v, u = np.mgrid[0:5, 0:5] / 4
    coarse = np.stack([1 + 2 * u - v, 3 * v], axis=-1).reshape(25, 2, 1).astype(np.float32)
    both = np.concatenate([coarse, 2 * coarse])
    v, u = np.mgrid[0:13, 0:13] / 12
    fine = np.stack([1 + 2 * u - v, 3 * v], axis=-1).reshape(169, 2, 1)
    assert interpolate_to(both, nodes=5, to=13, grids=2) == approx(np.concatenate([fine, 2 * fine]), abs=1e-6)
