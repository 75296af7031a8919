"""Polariser, depth of field and a honeycomb against Mitsuba 3 (published reference renderer).

The polariser against its polarised mode: Mueller matrices followed light by light, none of our simplifications. The depth of
field against its thin lens. The honeycomb against real tubes, each with its own lamp at its bottom.
"""

import math
from dataclasses import replace

import numpy as np
import pytest

from fotaxis.core.camera.filters import BeforeLens, Polariser
from fotaxis.core.lights.calibration import Candela
from fotaxis.core.lights.fixtures import Emission, Panel
from fotaxis.core.materials.catalogue import TABLE_SKIN
from fotaxis.core.materials.fresnel import brewster_angle_rad
from fotaxis.core.materials.material import Metal, Skin
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.values import Reflectance
from tests import material_scenes, mitsuba_scene, scenes
from tests.core.render.test_light_against_mitsuba import agree, blocks, on_a_white_table

pytestmark = [pytest.mark.mitsuba, pytest.mark.filterwarnings("ignore")]

WIDTH, HEIGHT = 160, 200
STEEL = Skin(reflectance=Reflectance.grey(0.0), metal=Metal(n=(2.4, 2.4, 2.4), k=(3.4, 3.4, 3.4)))


def wet(*, off_deg: float):
    """A steel cylinder on a black gloss table before an upright panel, seen from Brewster's angle less off_deg.

    The table mirrors the panel, the cylinder's top too; its side mirrors the table that mirrors a second panel.
    """
    angle = brewster_angle_rad(index=1.49) - math.radians(off_deg)
    cam = scenes.camera(distance=1.2 * math.sin(angle), height=1.2 * math.cos(angle), aim=0.05, focal=0.13)
    lit = {"calibration": Candela(value=100), "power": 0}
    lights = (
        scenes.panel("back", x=0.0, y=0.5, z=-0.5, turn=0, width=1.0, height=1.0, **lit),
        scenes.panel("side", x=0.7, y=0.3, z=0.1, turn=-100, width=0.6, height=0.8, **lit),
    )
    plan = scenes.bare(scenes.cylinder(height=0.12), lights=lights, cam=cam, body=STEEL)
    return replace(plan, table=scenes.plan().table)


def stokes(plan, *, passes):
    """S0, S1, S2 of the reference, (height, width) each; S1 along the picture's width."""
    mi = mitsuba_scene.load()
    mi.set_variant("llvm_ad_mono_polarized")
    try:
        half = plan.table.width_m / 2 * 100, plan.table.depth_m / 2 * 100
        turned = mi.ScalarTransform4f().rotate([1, 0, 0], -90).scale([half[0], half[1], 1])
        more = {
            "glass": {
                "type": "rectangle",
                "to_world": turned,
                "bsdf": {"type": "dielectric", "int_ior": 1.49, "ext_ior": 1.0},
            }
        }
        made = mitsuba_scene.scene(mi, plan, width=WIDTH, height=HEIGHT, depth=6, table=False, more=more)
        integrator = mi.load_dict({"type": "stokes", "nested": {"type": "path", "max_depth": 6, "rr_depth": 100}})
        total = 0.0
        for seed in range(passes):
            total = total + np.array(mi.render(made, integrator=integrator, spp=16, seed=seed), np.float64)
    finally:
        mi.set_variant("llvm_ad_rgb")
    total /= passes
    return tuple(total[..., 1 + 3 * k] for k in range(3))


@pytest.mark.parametrize("off_deg", [0.0, 20.0, -12.0])
def test_what_a_polariser_leaves_at_and_off_brewsters_angle(off_deg):
    plan = wet(off_deg=off_deg)
    s0, s1, s2 = stokes(plan, passes=24)
    table, steel, both = (
        (slice(104, 160), slice(12, 44)), (slice(44, 56), slice(68, 92)), (slice(80, 152), slice(99, 103)),
    )  # fmt: skip
    for turn in (0.0, 35.0, 90.0, 140.0):
        phi = math.radians(90 + turn)
        expected = s0 + s1 * math.cos(2 * phi) + s2 * math.sin(2 * phi)
        seen = replace(plan, before_lens=BeforeLens(polariser=Polariser(turn_rad=math.radians(turn))))
        ours = predict(seen, long_side=HEIGHT).pictures[1:].sum(axis=0)[..., 1]
        for rows, columns in (table, steel, both):
            part = ours[rows, columns].mean()
            # The reference's glass mirrors by lot: single pixels of it are grainy.
            assert part == pytest.approx(expected[rows, columns].mean(), rel=0.01, abs=5e-4 * s0.max()), (turn, rows)
    for part in (table, steel, both):
        assert s0[part].mean() > 0.01 * s0.max()  # must not pass on an empty picture
    assert s1[table].mean() > (0.99 if off_deg == 0 else 0.3) * s0[table].mean()


def through_a_thin_lens(mi, made, plan, *, passes):
    """The reference's picture, green, (HEIGHT, WIDTH), 64 paths a pixel and pass."""
    camera = plan.camera
    sensor = mi.load_dict({
        "type": "thinlens", "aperture_radius": 100 * camera.focal_length_m / plan.exposure.f_number / 2,
        "focus_distance": 100 * camera.focus_distance_m,
        "fov": 2 * math.degrees(math.atan(camera.half_field[0])), "fov_axis": "x", "near_clip": 1.0, "far_clip": 1e5,
        "to_world": mi.ScalarTransform4f().look_at(
            origin=(camera.place.array() * 100).tolist(), target=(camera.aim.array() * 100).tolist(), up=[0, 1, 0]
        ),
        "film": {"type": "hdrfilm", "width": WIDTH, "height": HEIGHT, "rfilter": {"type": "box"}, "component_format": "float32"},
        "sampler": {"type": "independent"},
    })  # fmt: skip
    return sum(np.array(mi.render(made, sensor=sensor, spp=64, seed=n), np.float64) for n in range(passes))[..., 1] / passes


def test_a_panel_out_of_focus_behind_a_sharp_cylinder():
    back = scenes.panel(
        "back", x=0.12, y=0.15, z=-1.0, turn=0, width=0.12, height=0.2, calibration=Candela(value=100), power=0
    )
    side = scenes.panel(
        "side", x=0.5, y=0.15, z=0.4, turn=-120, width=0.3, height=0.8, calibration=Candela(value=100), power=0
    )
    plan = scenes.bare(scenes.cylinder(), lights=(back, side), cam=replace(scenes.camera(focal=0.1), focus_m=0.0))
    plan = replace(plan, exposure=replace(plan.exposure, f_number=1.4))
    mi = mitsuba_scene.load()
    made = mitsuba_scene.scene(mi, plan, width=WIDTH, height=HEIGHT, depth=3)
    camera = plan.camera
    reference = through_a_thin_lens(mi, made, plan, passes=24)
    ours = predict(plan, long_side=HEIGHT).pictures[1:].sum(axis=0)[..., 1]
    sharp = predict(replace(plan, camera=replace(camera, focus_m=None)), long_side=HEIGHT).pictures[1:].sum(axis=0)[..., 1]
    bright = reference.max()
    # By hand: 100/1.4 mm * 0.1/1.4 * 1.0/2.5 = 2.04 mm across, 13.6 px of 0.15 mm: from a tenth to nine tenths about 9 of them.
    column = reference[:, 115] / bright
    assert ((column > 0.1) & (column < 0.9)).sum() >= 14  # two edges
    # Beside the cylinder more of what it hides is seen through a wide lens than through a pin's opening.
    assert np.abs(ours - reference).max() < 0.06 * bright
    assert np.abs(ours - reference).mean() < 0.08 * np.abs(sharp - reference).mean()
    agree(ours, reference, rows=slice(72, 128), columns=slice(104, 128), within=0.02, side=8, blocks_lit=20)
    edges = [
        [float(np.interp(level, row[::-1], np.arange(159, 109, -1))) for level in (0.25, 0.5, 0.75)]
        for row in (picture[80:120, 110:160].mean(axis=0) / bright for picture in (ours, reference))
    ]
    assert np.abs(np.subtract(*edges)).max() < 0.5  # it is whole pixels that are spread


def test_a_box_with_a_grid_against_real_tubes():
    # A full angle of 40 degrees: tubes 0.92 cm wide and 0.92 / tan 20 degrees = 2.53 cm deep, 1 cm apart, packed in a hexagon: 43 rows
    # of 39 and 38 by turns. The reference does not look for what stands within 0.0009 of the way before a lamp, 0.08 cm
    # here, in which light at 20 degrees gets 0.03 cm aside: walls are 0.08 cm thick, so that none gets into the next tube.
    # Light that spreads passes both ends of a tube as if it came from its middle: there our box has its face.
    pitch, wide, angle = 1.0, 0.92, math.radians(40)
    deep = wide / math.tan(angle / 2)
    rows, columns = 43, 39
    box = Panel(
        key="box", name="Box", stance=scenes.stance(0, 0.9 - deep / 200, 0, 0, -90), width_m=(columns - 0.5) * pitch / 100,
        height_m=rows * pitch * math.sqrt(3) / 2 / 100, grid_angle_rad=angle,
        emission=Emission(calibration=Candela(value=100), power_stops=0),
    )  # fmt: skip
    plan = on_a_white_table(lights=(box,), cards=())
    places = [
        ((column - (columns - row % 2 - 1) / 2) * pitch, (row - rows // 2) * pitch * math.sqrt(3) / 2)
        for row in range(rows)
        for column in range(columns - row % 2)
    ]
    value = box.full_luminance

    def tubes(mi):
        black = {"type": "twosided", "bsdf": {"type": "diffuse", "reflectance": 0.0}}
        made = {}
        for n, (x, z) in enumerate(places):
            for side, radius in (("inner", wide / 2), ("outer", pitch / 2)):
                wall = {"type": "cylinder", "p0": [x, 90.01, z], "p1": [x, 90 - deep, z], "radius": radius, "bsdf": black}
                made[f"{side}-{n}"] = wall
            down = mi.ScalarTransform4f().translate([x, 90, z]).rotate([1, 0, 0], 90).scale(wide / 2)
            lamp = {
                "type": "disk",
                "to_world": down,
                "emitter": {"type": "area", "radiance": {"type": "rgb", "value": value}},
            }
            made[f"lamp-{n}"] = lamp
        return made

    above = replace(plan, lights=(replace(box, stance=scenes.stance(0, 0.92, 0, 0, -90)),))  # not lit there, out of the way
    reference = mitsuba_scene.rendered(
        above,
        width=80,
        height=100,
        passes=160,
        depth=2,
        lights=(),
        more=tubes,
        what=f"tubes {len(places)} {pitch} {wide}",
    )[..., 1]
    open_share = math.pi / math.sqrt(12) * (wide / pitch) ** 2  # of round tubes in a hexagon
    ours = predict(plan, long_side=100).pictures[1, ..., 1] * open_share
    agree(ours, reference, rows=slice(24, 80), columns=slice(8, 72), within=0.02, side=8, least=0.45, blocks_lit=40)
    even = predict(replace(plan, lights=(replace(box, grid_angle_rad=0.0),)), long_side=100).pictures[1, ..., 1]
    assert ours[90, 40] / ours[50, 40] < 0.6 * even[90, 40] / even[50, 40]  # the pool is narrower than without


@pytest.mark.parametrize("surface", ["black gloss", "white gloss", "rear-painted glass"])
def test_what_a_table_mirrors_is_out_of_focus_by_its_own_distance(surface):
    # A cylinder in focus on a table that mirrors it and a panel far behind it, at f/2 from above.
    back = scenes.panel(
        "back", x=0.10, y=0.20, z=-0.7, turn=0, width=0.12, height=0.3, calibration=Candela(value=100), power=0
    )
    side = scenes.panel(
        "side", x=-0.5, y=0.15, z=0.4, turn=120, width=0.3, height=0.8, calibration=Candela(value=100), power=0
    )
    entry = TABLE_SKIN[surface].skin
    table = {"rear-painted glass": replace(material_scenes.rear_painted().table, depth_m=0.8)}.get(
        surface, replace(scenes.plan().table, skin=entry)
    )
    camera = replace(scenes.camera(height=0.45, aim=0.05, focal=0.085, distance=1.2), focus_m=0.0)
    plan = replace(scenes.bare(scenes.cylinder(height=0.12), lights=(back, side), cam=camera), table=table)
    plan = replace(plan, exposure=replace(plan.exposure, f_number=2.0))
    mi = mitsuba_scene.load()
    made = mitsuba_scene.scene(mi, plan, width=WIDTH, height=HEIGHT, depth=6)
    reference = through_a_thin_lens(mi, made, plan, passes=24)
    ours = predict(plan, long_side=HEIGHT).pictures[1:].sum(axis=0)[..., 1]
    sharp = predict(replace(plan, camera=replace(camera, focus_m=None)), long_side=HEIGHT).pictures[1:].sum(axis=0)[..., 1]
    # Whole pictures, 4 x 4 pixels each: the reference mirrors by lot, single pixels of it are grainy.
    everywhere = {"rows": slice(0, HEIGHT), "columns": slice(0, WIDTH), "side": 4}
    seen, expected, pinhole = (blocks(picture, **everywhere) for picture in (ours, reference, sharp))
    mirrored = slice(len(expected) // 3, None)
    for part in (slice(None), mirrored):
        bright = expected[part].max()
        assert np.abs(seen[part] - expected[part]).max() < 0.035 * bright
        assert np.abs(pinhole[part] - expected[part]).max() > 0.1 * bright  # the lens is wide open
