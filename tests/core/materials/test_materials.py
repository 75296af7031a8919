"""Surfaces and media: published values, energy, and the shapes of vessels."""

import math
import warnings
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from pytest import approx
from scipy.ndimage import binary_erosion

from fotaxis.core.errors import DomainError
from fotaxis.core.geometry.vessel import CAPILLARY_LENGTH_M, inner_radii, meniscus, meniscus_height_m
from fotaxis.core.materials import catalogue
from fotaxis.core.materials.bsdf import coat_entry, coat_share, facet_share, gloss_share, metal_under_coat
from fotaxis.core.materials.bump import KINDS, rim_slopes, slopes
from fotaxis.core.materials.catalogue import SKIN
from fotaxis.core.materials.fresnel import reflectance, reflectance_metal
from fotaxis.core.materials.ggx import lobe_density, lobe_weight, seen_facet, smith_lambda
from fotaxis.core.materials.material import COAT, ENTRY, Medium, Relief, Skin
from fotaxis.core.materials.polarisation import skin_reflected_rows
from fotaxis.core.metering.relief_contrast import relief_contrast
from fotaxis.core.render.final.final_render import predict, render_final
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.core.scene.product import Product, Zone
from fotaxis.core.scene.products.ball import Sphere
from fotaxis.core.scene.products.turned import Turned
from fotaxis.core.values import Reflectance, lattice
from tests import material_scenes, scenes

METALS = {
    "Al": catalogue.ALUMINIUM, "Ag": catalogue.SILVER, "Au": catalogue.GOLD, "Cu": catalogue.COPPER, "Cr": catalogue.CHROME,
}  # fmt: skip


@pytest.mark.parametrize("symbol", METALS)
def test_metal_indices_are_the_published_ones(symbol):
    # The measured tables that come with the reference renderer, at the dominant wavelengths of the Rec. 709 primaries.
    mitsuba = pytest.importorskip("mitsuba")
    folder = Path(mitsuba.__file__).parent / "data/ior"
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        eta, k = (np.loadtxt(folder / f"{symbol}.{part}.spd") for part in ("eta", "k"))
    for c, wavelength in enumerate((611, 549, 464)):
        assert METALS[symbol].n[c] == approx(np.interp(wavelength, *eta.T), abs=6e-5)
        assert METALS[symbol].k[c] == approx(np.interp(wavelength, *k.T), abs=6e-5)


def test_metals_mirror_what_handbooks_say_head_on():
    # By hand from n and k: ((n-1)^2 + k^2) / ((n+1)^2 + k^2); gold 0.92 in the red, 0.39 in the blue.
    gold = catalogue.GOLD
    for c, expected in ((0, 0.923), (2, 0.387)):
        assert reflectance_metal(1.0, gold.n[c], gold.k[c]) == approx(expected, abs=0.001)
    assert reflectance_metal(1.0, *(v[1] for v in (catalogue.ALUMINIUM.n, catalogue.ALUMINIUM.k))) == approx(
        0.921, abs=0.001
    )


@pytest.mark.parametrize("angle", [0, 20, 45, 56.31, 70, 85, 89])
def test_a_metal_without_absorption_is_a_dielectric(angle):
    cosine = math.cos(math.radians(angle))
    assert reflectance_metal(cosine, 1.5, 0.0) == approx(reflectance(cosine, 1.5), rel=1e-9)


@pytest.mark.parametrize("material", ["polished copper", "chrome", "gold foil"])
def test_a_coat_over_a_metal_is_one_formula_everywhere(material):
    # By hand: the series of bounces between coat and metal, term by term; head-on, where s and p light are alike.
    coated = replace(SKIN[material].skin, coat_index=1.5)
    row = np.array([coated.row()])
    top = ((1.5 - 1) / (1.5 + 1)) ** 2
    for c in range(3):
        under = metal_under_coat(row, 0, c, 1.0)
        series = top + sum((1 - top) ** 2 * under * (top * under) ** k for k in range(40))
        assert gloss_share(row, 0, c, 1.0) == approx(series, rel=1e-12)
        assert coat_share(row, 0, 1.0) + facet_share(row, 0, c, 1.0, coat_share(row, 0, 1.0)) == approx(series, rel=1e-12)
    mean, half, _, _ = skin_reflected_rows(row, 0, 1.0, 1.0)
    assert mean == approx(gloss_share(row, 0, 1, 1.0), rel=1e-9)
    assert half == approx(0, abs=1e-12)


def test_light_enters_a_coat_as_much_as_it_does_on_average():
    # Integral over the hemisphere of entry times cosine is pi, whatever the coat. Tolerance: the rule's own steps.
    skin = np.array([Skin(reflectance=Reflectance.grey(0.5), coat_index=1.5).row()])
    cosines = (np.arange(4000) + 0.5) / 4000
    entering = np.array([coat_entry(skin[0, COAT], skin[0, ENTRY], c) for c in cosines])
    assert (2 * entering * cosines).mean() == approx(1.0, rel=1e-3)


def test_facets_drawn_have_the_density_that_is_said():
    # Mean of f over drawn directions equals the integral of f times the density, f a smooth bump; anisotropic.
    v = np.array([0.5, -0.3, math.sqrt(1 - 0.34)])
    along, across = 0.12, 0.4
    bump = np.array([-0.4, 0.2, math.sqrt(1 - 0.2)])

    def f(direction):
        return math.exp(-20 * (1 - float(direction @ bump)))

    total = 0.0
    x, y = lattice(6765)
    for a, b in zip(x, y, strict=True):
        h = np.array(seen_facet(*v, along, across, a, b))
        mirrored = 2 * (v @ h) * h - v
        total += f(mirrored) if mirrored[2] > 0 else 0.0
    drawn = total / len(x)
    theta, phi = np.meshgrid(
        np.linspace(0, math.pi / 2, 400), np.linspace(0, 2 * math.pi, 800, endpoint=False), indexing="ij"
    )
    directions = np.stack([np.sin(theta) * np.cos(phi), np.sin(theta) * np.sin(phi), np.cos(theta)], axis=-1)
    value = 0.0
    area = (math.pi / 2 / 399) * (2 * math.pi / 800)
    for i in range(0, 400, 2):
        for j in range(0, 800, 2):
            d = directions[i, j]
            h = d + v
            h /= np.linalg.norm(h)
            value += 4 * area * math.sin(theta[i, j]) * f(d) * lobe_density(*v, *h, along, across)
    assert drawn == approx(value, rel=0.01)  # Riemann sum over 40,000 directions


def test_masking_is_one_head_on_and_falls_towards_grazing():
    assert smith_lambda(0, 0, 1, 0.3, 0.3) == 0
    assert lobe_weight(0, 0, 1, 0, 0, 1, 0.3, 0.3) == 1
    # By hand: a^2 = (0.3 * 0.99)^2 / 0.0199 = 4.4325, Lambda = (sqrt(5.4325) - 1) / 2 = 0.6654, 1 / (1 + Lambda) = 0.6004.
    assert lobe_weight(0, 0, 1, 0.99, 0, math.sqrt(1 - 0.99**2), 0.3, 0.3) == approx(0.6004, abs=1e-4)


def furnace(skin=None, product=None, **changes):
    """What a thing shows in an even white room: 1 means that it gives back all it gets. Mean over the thing, (3,)."""
    body = product or Product(name="Ball", shape=Sphere(diameter_m=0.08), body=skin)
    plan = scenes.plan(
        product=body, table=None, riser=None, background=None, lights=(), room_lux=math.pi,
        camera=scenes.camera(height=0.04, aim=0.04, distance=0.8), **changes,
    )  # fmt: skip
    layers = predict(plan, long_side=120)
    room = layers.pictures[0] * math.pi
    seen = np.abs(room - 1).sum(axis=2) > -1
    height, width = seen.shape
    middle = room[height // 2 - 12 : height // 2 + 12, width // 2 - 12 : width // 2 + 12]
    return middle.reshape(-1, 3).mean(axis=0), float(room.max()), layers.lost_share


LOSSLESS = {
    "white matte": Skin(reflectance=Reflectance.grey(1.0)),
    "perfect mirror": Skin(reflectance=Reflectance.grey(0), metal=replace(catalogue.SILVER, n=(0.01,) * 3, k=(20.0,) * 3)),
    "white under gloss": Skin(reflectance=Reflectance.grey(1.0), coat_index=1.5),
}


@pytest.mark.parametrize("name", LOSSLESS)
def test_furnace_lossless_things_vanish(name):
    # In an even room a thing that loses nothing looks like the room. White under a coat: the entry is averaged (0.5 %).
    mean, top, _ = furnace(LOSSLESS[name])
    assert mean == approx(1.0, abs=0.005)
    assert top < 1.005 if name != "white under gloss" else top < 1.06  # R + (1 - R) T at grazing, averaged entry


def test_furnace_clear_glass_with_water_vanishes():
    clear, water = Medium(index=1.52), Medium(index=1.333)
    tumbler = material_scenes.turned(((0, 7), (8, 7)), glass=clear, liquid=water, level=0.05, wall=0.003)
    mean, top, lost = furnace(product=tumbler)
    assert lost < 0.005
    assert mean == approx(1.0, abs=0.005)
    assert top < 1.005


def ball_in_a_furnace(skin):
    """Every pixel of a ball in an even white room, and which see it."""
    plan = scenes.plan(
        product=Product(name="Ball", shape=Sphere(diameter_m=0.08), body=skin), table=None, riser=None, background=None, lights=(),
        room_lux=math.pi, camera=scenes.camera(height=0.04, aim=0.04, distance=0.8),
    )  # fmt: skip
    stage = trace_scene(plan, width=144, height=180)
    return render_final(stage, plan).pictures[0, ..., 1] * math.pi, stage.is_product


@pytest.mark.parametrize("roughness", [0.15, 0.3, 0.45, 0.7, 1.0])
def test_a_rough_metal_that_takes_nothing_gives_all_back(roughness):
    # White furnace: what one mirroring by the facets loses is given back (Turquin 2019).
    lossless = replace(LOSSLESS["perfect mirror"], roughness=roughness)
    picture, ball = ball_in_a_furnace(lossless)
    inside = ball & (binary_erosion(ball, iterations=3))
    assert inside.sum() > 2500
    assert picture[inside].mean() == approx(1.0, abs=0.01)
    assert np.quantile(np.abs(picture[inside] - 1), 0.95) < 0.02


@pytest.mark.parametrize("roughness", [0.2, 0.42, 0.8])
def test_white_under_a_rough_coat_gives_all_back_to_the_rim(roughness):
    # White furnace: the coat mirrors less at grazing than a smooth one, and lets more of the white through.
    picture, ball = ball_in_a_furnace(Skin(reflectance=Reflectance.grey(1.0), coat_index=1.5, roughness=roughness))
    rim = ball & ~binary_erosion(ball, iterations=3)
    assert picture[ball].mean() == approx(1.0, abs=0.01)
    assert picture[rim].mean() == approx(1.0, abs=0.02)
    assert picture[ball].min() > 0.95
    assert picture[ball].max() < 1.02


@pytest.mark.parametrize("material", [m.name for m in catalogue.SKINS])
def test_furnace_no_material_creates_light(material):
    mean, top, lost = furnace(catalogue.SKIN[material].skin)
    assert mean.max() < 1.005
    assert top < 1.005
    assert lost < 0.005


def test_two_walls_absorb_as_beer_and_lambert_say():
    # An empty round jar, looked at through its middle: two walls of 3 mm, four boundaries, an incoherent pile of plates.
    left = (0.17, 0.52, 0.14)
    jar = material_scenes.turned(((0, 8), (30, 8)), glass=Medium(index=1.52, left_per_cm=left), liquid=None, wall=0.003)
    plan = material_scenes.in_the_dark(jar, lights=(material_scenes.BACK,))
    picture = predict(plan, long_side=300).pictures[1]
    middle = picture[130:160, 119:121].mean(axis=(0, 1)) / picture[30, 20]
    boundary = (0.52 / 2.52) ** 2
    for c in range(3):
        once = left[c] ** 0.3
        through = (1 - boundary) ** 2 * once / (1 - (boundary * once) ** 2)
        back = boundary * (1 + (1 - boundary) ** 2 * once**2 / (1 - (boundary * once) ** 2))
        # Stokes 1862: two plates. Tolerance: ways off the middle are longer by up to 0.3 %, cut-offs lose 0.5 %.
        assert middle[c] == approx(through**2 / (1 - back**2), rel=0.008)


def test_dilution_halves_the_depth_of_colour():
    wine = catalogue.LIQUID["red wine"].medium
    half = wine.diluted(0.5)
    assert half.left_per_cm[1] == approx(math.sqrt(wine.left_per_cm[1] * 0.9994), rel=1e-9)
    assert wine.diluted(1.0).index == approx(1.333)
    with pytest.raises(DomainError, match="water added"):
        wine.diluted(1.5)


def test_meniscus_is_that_of_a_flat_wall():
    # Landau & Lifshitz: at contact angle a the liquid climbs sqrt(2 (1 - sin a)) capillary lengths; far away it is level.
    assert meniscus_height_m() == approx(CAPILLARY_LENGTH_M * math.sqrt(2 * (1 - math.sin(math.radians(25)))))
    away = np.array([0.0, 1e-3, 5e-3, 0.03])
    height = meniscus(away)
    assert height[0] == approx(meniscus_height_m())
    assert (np.diff(height) < 0).all()
    # Far from the wall the surface falls off with the capillary length: h(x + a) / h(x) = 1/e.
    a, b = meniscus(np.array([2.5, 3.5]) * CAPILLARY_LENGTH_M)
    assert b / a == approx(math.exp(-1), rel=0.03)


def test_the_inner_wall_keeps_its_distance():
    profile = scenes.cylinder(radius=0.04, height=0.2)
    y, r = inner_radii(profile, wall_m=0.003, floor_m=0.01)
    assert y[0] == approx(0.01, abs=1e-4)  # rows of a fifth of a millimetre
    assert r[-1] == approx(0.037, abs=1e-6)
    assert r.max() == approx(0.037, abs=1e-6)


@pytest.mark.parametrize(
    ("change", "words"),
    [({"wall": 0.05}, "wall is thicker"), ({"floor": 0.4}, "below the lip"), ({"level": 0.31}, "Lower the level")],
)
def test_glass_that_cannot_be_is_refused_with_the_reason(change, words):
    with pytest.raises(DomainError, match=words):
        material_scenes.turned(scenes.BOTTLE_CM, **change)


@pytest.mark.parametrize("kind", [k for k in KINDS if k not in ("none", "emboss")])
def test_relief_slopes_average_to_nothing(kind):
    # A surface that repeats rises as much as it falls.
    x, y = lattice(4181)
    pairs = np.array([slopes(KINDS[kind], 0.001, 1e-4, u, v) for u, v in zip(x * 0.2, y * 0.2, strict=True)])
    assert np.abs(pairs.mean(axis=0)).max() < 0.02 * max(np.abs(pairs).max(), 1e-12)


def test_an_embossed_rim_rises_by_its_depth():
    # Integral of the slope across the rim is the depth.
    at = np.linspace(0.02 - 0.0015, 0.02, 2001)
    rise = np.trapezoid([rim_slopes(0.0015, 4e-4, u, 0.0, 0.02, 0.03, False)[0] for u in at], at)
    assert -rise == approx(4e-4, rel=1e-4)


def carton(light):
    band = Zone(low_m=0.04, high_m=0.08, face="front", width_m=0.05, skin=catalogue.SKIN["linen card"].skin)
    plan = material_scenes.foil_on_carton()
    box = replace(plan.product, bands=(band,), turn_rad=0.0)
    return replace(plan, product=box, lights=(light,)), box, band


def test_raking_light_shows_a_relief_and_frontal_light_wipes_it_out():
    raking, box, band = carton(scenes.panel("rake", x=-0.6, y=0.06, z=0.1, turn=97, width=0.05, height=0.05))
    frontal, _, _ = carton(scenes.panel("front", x=0, y=0.06, z=0.8, turn=180, width=0.6, height=0.6))
    shown, wiped = relief_contrast(raking, box, band), relief_contrast(frontal, box, band)
    assert shown > 0.3
    assert wiped < 0.03
    # By hand: light 10 degrees above the board; linen's steepest slope is d/4 2 pi/P = 0.157, so light swings by
    # tan(slope)/tan(10 degrees) = 0.157/0.13 about its mean: contrast near 0.9 at the extremes, less at the 5 and 95 %.
    assert shown < 1.0


def test_a_relief_that_is_sunk_must_be_an_emboss():
    with pytest.raises(DomainError, match="only an emboss"):
        Relief(kind="linen", period_m=1e-3, depth_m=-1e-4)


def test_only_turned_shapes_hold_liquid():
    vessel = material_scenes.turned(scenes.BOTTLE_CM).vessel
    with pytest.raises(DomainError, match="only a turned shape"):
        Product(name="Ball", shape=Sphere(diameter_m=0.1), body=scenes.BLACK_GLASS, vessel=vessel)


def test_zones_on_faces_belong_to_boxes():
    band = Zone(low_m=0, high_m=0.1, face="front", width_m=0.1, skin=scenes.PAPER)
    with pytest.raises(DomainError, match="only a box or a model has faces"):
        Product(name="Jar", shape=Turned(profile=scenes.profile()), body=scenes.BLACK_GLASS, bands=(band,))
