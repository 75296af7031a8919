"""A printed picture on a zone, as the frame shows it: where each of its marks lies, and in which colour.

Places follow from a pinhole at the camera's place by hand; colours from the file's own codes (IEC 61966-2-1) by colour-science, under
one white light that meets all patches alike. The camera's white balance is that of the light and so proves nothing about itself.
"""

import math
from dataclasses import replace

import numpy as np
import pytest
from scipy import ndimage

from fotaxis.core.materials.artwork import Artwork
from fotaxis.core.materials.material import Skin
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.render.layers import layer_gains, mixed
from fotaxis.core.scene.product import Print, Product, Zone
from fotaxis.core.scene.products.box import Box
from fotaxis.core.scene.products.turned import Turned
from fotaxis.core.values import Reflectance
from tests import scenes

WHITE = Skin(reflectance=Reflectance.grey(0.8))
FACE_M = 0.12
PATCHES = 6
INVENTED = np.random.default_rng(11).integers(20, 256, (PATCHES, PATCHES, 3), np.uint8)


def printed(picture, *, cut=False):
    """A picture (height, width, 3) as print; with cut it is only where it is not white."""
    cover = np.where((picture == 255).all(-1), 0, 255) if cut else np.full(picture.shape[:2], 255)
    rgba = np.dstack([picture, cover]).astype(np.uint8)
    foil = Skin(reflectance=Reflectance.grey(0.0))
    return Print(picture=Artwork.of(rgba), cut=cut, foil=foil, varnish=WHITE, depth_m=0.0)


def boxed(picture, *, turn=0.0):
    """A white cube with the picture on its front, lit from beside the lens by one large far panel."""
    zone = Zone(low_m=0.0, high_m=FACE_M, face="front", width_m=FACE_M, skin=WHITE, artwork=printed(picture))
    cube = Product(
        name="Cube",
        shape=Box(width_m=FACE_M, height_m=FACE_M, depth_m=FACE_M, edge_m=0.0),
        body=WHITE,
        bands=(zone,),
        turn_rad=turn,
    )
    far = scenes.panel("far", x=0.0, y=0.06, z=6.0, turn=180.0, width=0.5, height=0.5, power=0.0)
    camera = scenes.camera(height=0.06, aim=0.06, distance=1.0, focal=0.16, ratio=(1.0, 1.0))
    return scenes.plan(product=cube, table=None, riser=None, background=None, camera=camera, lights=(far,))


def seen(plan, side):
    """Linear levels (side, side, 3) with the brightest at 1."""
    levels = mixed(predict(plan, long_side=side), layer_gains(plan))
    return levels / levels.max()


def across(camera, side, distance):
    """Pixels a metre at a metre before the lens, by hand: image distance of a lens focused where it aims, over the pixel pitch."""
    image = 1 / (1 / camera.focal_length_m - 1 / distance)
    return image / min(camera.sensor_width_m, camera.sensor_height_m) * side


@pytest.mark.filterwarnings("ignore")
def test_colours_are_the_files_within_two_under_even_white_light():
    import colour

    picture = np.kron(INVENTED, np.ones((40, 40, 1), np.uint8))
    picture[:2] = picture[-2:] = picture[:, :2] = picture[:, -2:] = 255
    plan = boxed(picture)
    levels = seen(plan, 480)
    scale = across(plan.camera, 480, 1.0) / (1.0 - FACE_M / 2) * FACE_M
    first = 240 - scale / 2
    at = [round(first + scale * (i + 0.5) / PATCHES) for i in range(PATCHES)]
    ours = np.array([[levels[y - 3 : y + 4, x - 3 : x + 4].mean(axis=(0, 1)) for x in at] for y in at])
    told = colour.cctf_decoding(INVENTED / 255.0, function="sRGB")
    white = np.median(ours.sum(axis=2) / told.sum(axis=2))  # one factor for all patches and channels: the exposure
    lab = [
        colour.XYZ_to_Lab(
            colour.RGB_to_XYZ(values, "sRGB", apply_cctf_decoding=False),
            colour.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]["D65"],
        )
        for values in (ours / white, told)
    ]
    assert colour.delta_E(*lab, method="CIE 2000").max() < 2.0


MARK_MM = 2.0


def marks(columns, rows, size_mm):
    """A white picture, 10 texels a millimetre, with black discs at places (mm from its left and top)."""
    width, height = size_mm
    y, x = np.mgrid[0 : round(height * 10), 0 : round(width * 10)] / 10 + 0.05
    dark = np.zeros(x.shape, bool)
    for cx in columns:
        for cy in rows:
            dark |= (x - cx) ** 2 + (y - cy) ** 2 < MARK_MM**2 / 4
    return np.where(dark[..., None], 0, 255).repeat(3, axis=2).astype(np.uint8)


def found(levels, near, reach):
    """Centre of the dark mark nearest to a place, pixels."""
    x, y = round(near[0]), round(near[1])
    part = levels[y - reach : y + reach + 1, x - reach : x + reach + 1].mean(axis=2)
    dark = np.clip(np.quantile(part, 0.9) - part - 0.1, 0, None)
    row, column = ndimage.center_of_mass(dark)
    return x - reach + column + 0.5, y - reach + row + 0.5


def test_marks_lie_where_the_file_has_them_on_a_flat_face():
    places = (15.0, 48.0, 105.0)
    plan = boxed(marks(places, places, (120, 120)))
    side = 600
    levels = seen(plan, side)
    per_m = across(plan.camera, side, 1.0) / (1.0 - FACE_M / 2)
    for mm_x in places:
        for mm_y in places:
            want = side / 2 + (mm_x / 1000 - 0.06) * per_m, side / 2 + (mm_y / 1000 - 0.06) * per_m
            got = found(levels, want, 8)
            assert math.dist(got, want) / per_m < 0.0002


@pytest.mark.parametrize("azimuth", [0.0, 25.0, -40.0])
def test_marks_lie_where_the_file_has_them_round_a_can(azimuth):
    radius, height, width_deg = 0.04, 0.2, 60.0
    arc_mm = math.radians(width_deg) * radius * 1000
    columns, rows = (8.0, 20.9), (10.0, 42.0)
    zone = Zone(
        low_m=0.07,
        high_m=0.13,
        azimuth_rad=math.radians(azimuth),
        width_rad=math.radians(width_deg),
        skin=WHITE,
        artwork=printed(marks(columns, rows, (arc_mm, 60))),
    )
    can = Product(name="Can", shape=Turned(profile=scenes.cylinder(radius, height)), body=WHITE, bands=(zone,))
    far = scenes.panel("far", x=0.0, y=0.1, z=6.0, turn=180.0, width=0.5, height=0.5, power=0.0)
    camera = scenes.camera(height=0.1, aim=0.1, distance=1.2, focal=0.2, ratio=(1.0, 1.0))
    plan = scenes.plan(product=can, table=None, riser=None, background=None, camera=camera, lights=(far,))
    side = 700
    levels = seen(plan, side)
    for mm_x in columns:
        for mm_y in rows:
            angle = math.radians(azimuth) + (mm_x - arc_mm / 2) / 1000 / radius
            x, y, z = radius * math.sin(angle), 0.13 - mm_y / 1000, radius * math.cos(angle)
            if abs(angle) > math.radians(50):
                continue  # foreshortened to less than a few pixels
            per_m = across(camera, side, 1.2) / (1.2 - z)
            want = side / 2 + x * per_m, side / 2 - (y - 0.1) * per_m
            got = found(levels, want, 8)
            # Across, a pixel stands for more of the surface the more it turns away.
            assert abs(got[0] - want[0]) / per_m / math.cos(angle) < 0.0002
            assert abs(got[1] - want[1]) / per_m < 0.0002


def test_print_reads_rightly_from_outside_on_every_side():
    picture = np.full((60, 60, 3), 255, np.uint8)
    picture[5:25, 5:25] = 0  # dark in the upper left corner
    for face, turn in (("front", 0.0), ("right", -math.pi / 2), ("left", math.pi / 2), ("back", math.pi)):
        plan = boxed(picture, turn=turn)
        zone = replace(plan.product.bands[0], face=face)
        levels = seen(replace(plan, product=replace(plan.product, bands=(zone,))), 160).mean(axis=2)
        quarters = [levels[y : y + 40, x : x + 40].mean() for y, x in ((40, 40), (40, 80), (80, 40), (80, 80))]
        assert int(np.argmin(quarters)) == 0, face


def test_only_what_the_picture_covers_is_print_where_it_is_cut_out():
    picture = marks((60.0,), (60.0,), (120, 120))
    plan = boxed(picture)
    dark = replace(plan.product, body=Skin(reflectance=Reflectance.grey(0.1)))
    whole = seen(replace(plan, product=dark), 200)
    zone = replace(plan.product.bands[0], artwork=printed(picture, cut=True))
    cut = seen(replace(plan, product=replace(dark, bands=(zone,))), 200)
    # Beside the mark: paper where the picture is whole, else the body, which is as bright as anything there.
    assert whole[100, 60, 1] > 0.9
    assert cut[100, 60, 1] > 0.9
    assert whole[100, 100, 1] < 0.05
    assert cut[100, 100, 1] < 0.05
    body = mixed(predict(replace(plan, product=replace(dark, bands=(zone,))), long_side=60), layer_gains(plan))
    paper = mixed(predict(replace(plan, product=dark), long_side=60), layer_gains(plan))
    assert body[30, 20, 1] == pytest.approx(paper[30, 20, 1] * 0.1, rel=0.05)
