"""The two-stage engine: exact where it must be, honest at its edges."""

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.errors import DomainError
from fotaxis.core.materials.catalogue import SILVER
from fotaxis.core.materials.fresnel import reflectance
from fotaxis.core.materials.material import Skin
from fotaxis.core.render.arrays.pack_emitters import pack_emitters
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.final.final_render import predict, render_final
from fotaxis.core.render.layers import develop, layer_gains, mixed
from fotaxis.core.render.preview.render_preview import render_preview
from fotaxis.core.render.preview.traced_scene import relight_draft, static_part, trace_scene
from fotaxis.core.render.transport import illuminate
from fotaxis.core.render.transport.illuminance import polygon_illuminance_lux
from fotaxis.core.scene.plan import Background, Table
from fotaxis.core.values import Point, Reflectance
from tests import scenes

SIDE = 120


@pytest.fixture(scope="module")
def stage():
    return trace_scene(scenes.plan(), width=96, height=SIDE)


def test_layers_are_independent_of_power_and_add_up(stage):
    plan = scenes.plan()
    layers = render_final(stage, plan)
    louder = replace(
        plan, lights=(replace(plan.lights[0], emission=replace(plan.lights[0].emission, power_stops=-1.0)), *plan.lights[1:])
    )
    assert np.array_equal(render_final(stage, louder).pictures, layers.pictures)
    whole = mixed(layers, layer_gains(plan))
    parts = sum(mixed(layers, layer_gains(plan) * (np.arange(4) == i)) for i in range(4))
    assert whole == approx(parts, rel=1e-6, abs=1e-7)


def test_switching_a_light_off_changes_only_its_share(stage):
    plan = scenes.plan()
    off = replace(
        plan, lights=(replace(plan.lights[0], emission=replace(plan.lights[0].emission, on=False)), *plan.lights[1:])
    )
    assert list(layer_gains(off) == 0) == [True, True, False, False]  # the room is dark, the left panel off


def test_mirror_image_has_the_panels_luminance_times_fresnel():
    # Law of reflection: middle of the highlight = R(theta) L. A far panel at 60 degrees off axis: incidence 30 degrees.
    angle = math.radians(60)
    panel = scenes.panel("p", x=3 * math.sin(angle), y=0.15, z=3 * math.cos(angle), turn=240, width=1.5, height=3)
    layers = predict(
        scenes.bare(scenes.cylinder(), lights=(panel,), cam=scenes.camera(distance=3.0, focal=0.3)), long_side=400
    )
    peak = float(layers.pictures[1, 200, :, 1].max())
    row = layers.pictures[1, 200, :, 1]
    middle = np.flatnonzero(row > 0.5 * peak)
    theta = 0.5 * math.atan2(3 * math.sin(angle), 3 * math.cos(angle))
    at = int(middle.mean())
    # Tolerance: the panel is 28 degrees wide, R changes by 3 % over it around 30 degrees; the middle is within 1 %.
    assert float(row[at]) == approx(panel.full_luminance * reflectance(math.cos(theta), 1.5), rel=0.01)


def test_label_light_matches_lambert():
    # A matte cylinder's front line facing a panel: albedo E / pi with E from the closed form, no occluders.
    panel = scenes.panel("p", x=0, y=0.6, z=0.8, turn=180, tilt=-30, width=0.3, height=0.2)
    plan = scenes.bare(scenes.cylinder(), lights=(panel,), body=scenes.PAPER, cam=scenes.camera(distance=1.5))
    layers = predict(plan, long_side=400)
    cam = plan.camera
    place, normal = np.array([0, 0.15, scenes.CYLINDER_RADIUS]), np.array([0, 0, 1.0])
    movables = pack_emitters(plan, pack_static_scene(plan))
    f = movables.flats[0]
    corners = np.array([f[:3] + a * f[12] * f[3:6] + b * f[13] * f[6:9] for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))])
    e = polygon_illuminance_lux(corners=corners, point=place, normal=normal, luminance_cd_m2=panel.full_luminance)
    x, y = cam.project(place, width=320, height=400)
    assert float(layers.pictures[1, int(y), int(x), 1]) == approx(0.75 * e / math.pi, rel=5e-3)


def test_a_panel_before_the_table_blocks_what_lies_behind_it():
    # Gates: rays from the bottle down to the table and up again must not pass through a card that stands between.
    plan = scenes.plan(cards=(), riser=None)
    wall = scenes.card("wall", x=0.12, y=0.15, z=0.0, turn=90, width=0.6, height=0.6, reflectance=0.0)
    blocked = replace(plan, cards=(wall,))
    stage = trace_scene(plan, width=96, height=SIDE)
    before, after = render_final(stage, plan), render_final(stage, blocked)
    right = 2  # layers: room, left, right, label
    assert before.pictures[right, :, 48:].max() > 0
    table_part = slice(int(SIDE * 0.9), SIDE)
    assert after.pictures[right].sum() < 0.2 * before.pictures[right].sum()
    assert after.pictures[right, table_part].max() <= before.pictures[right, table_part].max()


def test_draft_agrees_with_fine_away_from_edges(stage):
    # The draft takes matte light from a coarse grid and does not smooth edges: 90 % of pixels within 5 % of the peak.
    plan = scenes.plan()
    draft, fine = relight_draft(stage, plan).pictures, render_final(stage, plan).pictures
    for layer in range(1, 4):
        scale = np.quantile(fine[layer], 0.999)
        assert np.quantile(np.abs(draft[layer] - fine[layer]) / scale, 0.9) < 0.05


def test_a_stage_serves_while_only_lights_move():
    plan = scenes.plan()
    moved = replace(plan, lights=(scenes.panel("left", x=-0.6), *plan.lights[1:]), exposure=replace(plan.exposure, iso=400))
    assert static_part(moved) == static_part(plan)
    lifted = replace(plan, camera=scenes.camera(height=0.2))
    assert static_part(lifted) != static_part(plan)


def test_shadow_edge_width_is_that_of_similar_triangles():
    # Common practice: edge width = source size * (flag - surface) / (flag - source).
    flag_above, source_above, size = 0.3, 1.5, 0.2
    table = scenes.plan().table
    plan = scenes.bare(
        scenes.cylinder(radius=0.001, height=0.002),
        lights=(scenes.panel("p", x=0, y=source_above, z=0, turn=0, tilt=-90, width=size, height=size),),
        cards=(scenes.card("flag", x=0.5, y=flag_above, z=0, width=1.0, height=2.0, reflectance=0.0),),
    )
    flag = replace(plan.cards[0], stance=scenes.stance(0.5, flag_above, 0.0, 0.0, 90.0))
    plan = replace(plan, cards=(flag,), table=replace(table, skin=scenes.PAPER))
    still = pack_static_scene(plan)
    x = np.linspace(-0.1, 0.1, 401)
    places = np.zeros((401, 8), np.float32)
    places[:, 0], places[:, 4] = x, 1.0
    out = np.zeros((401, 1, 3), np.float32)
    illuminate.illuminate_places(still, pack_emitters(plan, still, cells=377), 1, places, 0, 401, out)
    level = out[:, 0, 1] / out[:, 0, 1].max()
    inside = x[(level > 0.02) & (level < 0.98)]
    expected = size * flag_above / (source_above - flag_above)
    assert inside.max() - inside.min() == approx(expected, rel=0.12)  # 20 cells across the source: 5 % steps at each end


def test_white_card_bounce_is_one_bounce_of_its_illuminance():
    # Card facing a panel: luminance = albedo E / pi at its middle; seen directly by the camera.
    panel = scenes.panel("p", x=0.0, y=0.2, z=0.6, turn=180, width=0.2, height=0.2)
    card = replace(scenes.card("c", width=0.1, height=0.1), stance=scenes.stance(0.0, 0.2, -0.2, 0.0))
    cam = replace(scenes.camera(distance=1.5, height=0.5, aim=0.2), place=Point(x_m=0.6, y_m=0.5, z_m=1.4))
    plan = scenes.bare(scenes.cylinder(radius=0.001, height=0.002), lights=(panel,), cam=cam, cards=(card,))
    layers = predict(plan, long_side=200)
    x, y = cam.project(np.array([0, 0.2, -0.2]), width=160, height=200)
    half = 0.1
    corners = np.array(
        [[-half, 0.2 - half, 0.6], [half, 0.2 - half, 0.6], [half, 0.2 + half, 0.6], [-half, 0.2 + half, 0.6]]
    )
    e = polygon_illuminance_lux(
        corners=corners, point=np.array([0, 0.2, -0.2]), normal=np.array([0, 0, 1.0]), luminance_cd_m2=panel.full_luminance
    )
    assert float(layers.pictures[1, int(y), int(x), 1]) == approx(0.85 * e / math.pi, rel=0.01)


def test_furnace_no_surface_creates_light():
    # In an even surround of luminance 1/pi per lux everything must show at most that, and a lossless white under a coat
    # exactly that within the averaging of the entry angle (0.5 %), integrated over what is seen.
    white = Skin(reflectance=Reflectance.grey(1.0), coat_index=1.5)
    plan = scenes.bare(scenes.cylinder(), body=white)
    room = predict(plan, long_side=200).pictures[0]
    assert room.max() <= (1 / math.pi) * 1.02
    inside = room[60:140, 70:90, 1]
    assert inside.mean() == approx(1 / math.pi, rel=0.005)


def test_hardly_any_light_is_dropped():
    # A black bottle on gloss, and a polished can close before a polished background: light goes to and fro between them.
    mirror = Skin(reflectance=Reflectance.grey(0.0), metal=SILVER)
    wall = Background(distance_m=0.045, width_m=3, height_m=3, centre_height_m=0.1, skin=mirror)
    plan = replace(
        scenes.bare(scenes.cylinder(), body=mirror), background=wall, table=Table(skin=mirror, width_m=2, depth_m=2)
    )
    assert predict(plan, long_side=SIDE).lost_share < 1e-4
    assert predict(scenes.plan(), long_side=SIDE).lost_share < 1e-6


def test_grid_head_lights_a_pool_of_its_angle():
    # Common practice: spot diameter = 2 d tan(angle / 2) + the source's size.
    head = scenes.head(x=0, y=1.0, z=0, turn=0, tilt=-90)
    plan = replace(scenes.bare(scenes.cylinder(radius=0.001, height=0.002), lights=(head,)), table=scenes.plan().table)
    still = pack_static_scene(plan)
    x = np.linspace(0, 0.5, 501)
    places = np.zeros((501, 8), np.float32)
    places[:, 0], places[:, 1], places[:, 4] = x, 0.005, 1.0
    out = np.zeros((501, 1, 3), np.float32)
    illuminate.illuminate_places(still, pack_emitters(plan, still, cells=377), 1, places, 0, 501, out)
    reach = x[out[:, 0, 1] > 1e-4 * out[0, 0, 1]].max()
    assert 2 * reach == approx(2 * 0.995 * math.tan(math.radians(10)) + 0.18, rel=0.05)


def test_develop_is_the_exact_curve_within_half_a_step(stage):
    from fotaxis.core.camera.exposure import encode_srgb

    plan = scenes.plan()
    layers = render_final(stage, plan)
    gains = layer_gains(plan)
    exact = encode_srgb(mixed(layers, gains)).astype(int)
    assert np.abs(develop(layers, gains).astype(int) - exact).max() <= 1


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"camera": scenes.camera(distance=0.03, focal=0.005)}, "inside the product"),
        ({"camera": scenes.camera(distance=0.03, height=0.02, focal=0.005)}, "inside the riser"),
        ({"lights": (scenes.panel("a"), scenes.panel("a"))}, "share the key"),
        ({"lights": tuple(scenes.panel(f"p{i}") for i in range(25))}, "at most 24"),
        ({"room_lux": -1.0}, "room light"),
    ],
)
def test_sets_that_cannot_be_are_refused(change, words):
    with pytest.raises(DomainError, match=words):
        scenes.plan(**change)


def test_following_a_drag_gives_the_draft_and_the_same_reading():
    plan = scenes.plan(cards=(scenes.card(),), room_lux=20.0)
    stage = trace_scene(plan, width=96, height=96)
    layers, gains = relight_draft(stage, plan), layer_gains(plan)
    pixels = np.array([0, 500, 4000, 4001, 96 * 96 - 1])
    picture, read, _ = render_preview(stage, plan, gains=gains, pixels=pixels)
    # The same sums in another order, in float32: one 8-bit step where a value lies on the border between two.
    assert np.abs(picture.astype(int) - develop(layers, gains).astype(int)).max() <= 1
    assert picture.max() > 200
    # Lights are added before, not after: float32's rounding of sums of hundreds of terms.
    assert read == approx(mixed(layers, gains).reshape(-1, 3)[pixels], rel=1e-5, abs=1e-9)


def test_the_draft_of_a_few_things_has_its_light_where_it_is_seen():
    # Most of what is seen of a surface is spanned, whatever few hits far aside would ask for; a picture at rest spans all.
    stage = trace_scene(scenes.plan(), width=96, height=SIDE)
    draft, fine = stage.draft(scenes.plan(lights=(), cards=())).grid, stage.fine_grid
    hits = stage.traced.hits
    matte = hits[:, 13] == 0
    looked_at = 0
    for k in np.unique(hits[matte, 9].astype(int)):
        mine = hits[matte & (hits[:, 9] == k)]
        if len(mine) < 1000 or fine.begin[k] < 0:
            continue
        for grid, share in ((draft, 0.95), (fine, 1.0)):
            low_u, high_u, low_v, high_v = grid.spans[k]
            assert np.mean((mine[:, 10] >= low_u - 1e-6) & (mine[:, 10] <= high_u + 1e-6)) >= share
            looked_at += 1
            assert np.mean((mine[:, 11] >= low_v - 1e-6) & (mine[:, 11] <= high_v + 1e-6)) >= share
    assert looked_at >= 2
