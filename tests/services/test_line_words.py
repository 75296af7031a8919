"""What the page says of lines, on many sets, against an independent reading of the finished picture.

Independent: the finished picture less the same one with a product that mirrors nothing is what the product mirrors; its rows
are read here by hand. Held the same in both: the tracer's geometry and the light. Those are held to Mitsuba elsewhere.
"""

from __future__ import annotations

import math
import random
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.filters import BeforeLens, Polariser
from fotaxis.core.constants import MIDDLE_GREY, REC709_LUMINANCE
from fotaxis.core.frames.line_profile import ReadingLine
from fotaxis.core.frames.line_reading import usual_line
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.frames.readings.edge import EdgeLine
from fotaxis.core.materials.catalogue import SKIN
from fotaxis.core.scene.product import Product, Zone
from fotaxis.core.scene.products.box import Box
from fotaxis.core.scene.products.can import Can
from fotaxis.core.scene.products.turned import Turned
from fotaxis.core.values import Reflectance
from fotaxis.services.pictures import Pictures
from fotaxis.services.shown import Shown
from tests import scenes

SIDE = 480
SHARES = (0.47, 0.5, 0.535)
SETS = range(40)


def seeded(seed):
    """A set of its own for every number: shape, label, foil, background, polariser, panels, lens, height of the camera."""
    rng = random.Random(seed)
    kind = rng.choice(["bottle", "bottle", "can", "cylinder", "box"])
    lacquer = replace(scenes.BLACK_GLASS, reflectance=Reflectance.grey(rng.choice([0.0, 0.0, 0.02])))
    label = Zone(low_m=0.04, high_m=0.10, azimuth_rad=rng.uniform(-0.5, 0.5), width_rad=math.radians(rng.choice([100, 150, 240])),
                 skin=scenes.PAPER)  # fmt: skip
    foil = Zone(low_m=0.12, high_m=0.14, width_rad=2 * math.pi, skin=replace(SKIN["gold foil"].skin, roughness=0.0))
    bands = tuple(zone for zone in (label, foil) if rng.random() < 0.6)
    shape, height = {
        "bottle": (Turned(profile=scenes.profile()), 0.308), "can": (Can(diameter_m=0.066, height_m=0.165), 0.165),
        "cylinder": (Turned(profile=scenes.cylinder(0.05, 0.16)), 0.16),
        "box": (Box(width_m=0.1, height_m=0.15, depth_m=0.06, edge_m=0.004), 0.15),
    }[kind]  # fmt: skip
    turn = math.radians(rng.uniform(-30, 30)) if kind == "box" else 0.0
    product = Product(name="Thing", shape=shape, body=lacquer, bands=() if kind == "box" else bands, turn_rad=turn)
    lights = [
        scenes.panel("left", x=-rng.uniform(0.3, 0.6), y=rng.uniform(0.1, 0.3), z=rng.uniform(-0.4, 0.1), turn=0,
                     width=rng.uniform(0.05, 0.3), height=rng.uniform(0.3, 1.2), gradient=rng.choice(["even", "core"]), stops=1.2,
                     power=rng.choice([-3.0, -4.0, -5.0])),
        scenes.panel("right", x=rng.uniform(0.3, 0.6), y=rng.uniform(0.1, 0.3), z=rng.uniform(-0.4, 0.1), turn=0,
                     width=rng.uniform(0.05, 0.3), height=rng.uniform(0.3, 1.2), power=rng.choice([-3.0, -4.0, -5.0])),
    ]  # fmt: skip
    lights = [aimed(one, height / 2) for one in lights]
    if rng.random() < 0.5:
        lights.append(scenes.head(power=rng.choice([-3.0, -5.0])))
    base = scenes.plan()
    lit = rng.random() < 0.5
    background = replace(
        base.background, skin=replace(base.background.skin, reflectance=Reflectance.grey(0.8 if lit else 0.03))
    )
    polariser = Polariser(turn_rad=math.radians(rng.choice([0, 90]))) if rng.random() < 0.3 else None
    high = rng.choice([0.0, 0.0, 0.25])
    cam = scenes.camera(
        distance=rng.choice([0.8, 1.4]), height=height / 2 + 0.04 + high, aim=height / 2 + 0.04,
        focal=rng.choice([0.05, 0.07]) if height > 0.2 else rng.choice([0.07, 0.1]), ratio=rng.choice([(4.0, 5.0), (1.0, 1.0)]),
    )  # fmt: skip
    return replace(
        base, product=product, lights=tuple(lights), background=background, camera=cam, room_lux=rng.choice([0.0, 20.0]),
        before_lens=BeforeLens(polariser=polariser),
    )  # fmt: skip


def aimed(panel, height):
    place = panel.stance.place
    return replace(panel, stance=replace(panel.stance, turn_rad=math.atan2(-place.x_m, -place.z_m)))


def without_mirror(plan):
    """The same set, its product matte everywhere."""

    def matte(skin):
        shown = Reflectance.grey(0.0) if skin.metal else skin.reflectance
        return replace(skin, coat_index=0.0, metal=None, roughness=0.0, reflectance=shown)

    product = plan.product
    bands = tuple(replace(band, skin=matte(band.skin)) for band in product.bands)
    return replace(plan, product=replace(product, body=matte(product.body), bands=bands))


def luminance(plan):
    """The finished picture's luminance, and the product's pixels."""
    made = Pictures().fine(plan, long_side=SIDE)
    return made.levels().astype(np.float64) @ np.array(REC709_LUMINANCE), made.is_product


def crossing(levels, peak_at, step, share, first, last):
    """Column, from the peak outwards, where a row falls to a share of its peak; None where its stretch ends before."""
    i = peak_at
    while first <= i + step <= last:
        if levels[i + step] <= share * levels[peak_at]:
            a, b = levels[i], levels[i + step]
            return i + step * (a - share * levels[peak_at]) / (a - b)
        i += step
    return None


@pytest.mark.parametrize("seed", SETS)
def test_the_words_of_a_seeded_set_agree_with_its_finished_picture(seed):
    plan = seeded(seed)
    whole, is_product = luminance(plan)
    matte, _ = luminance(without_mirror(plan))
    mirrored = np.where(is_product, np.maximum(whole - matte, 0.0), 0.0)
    height, width = whole.shape
    rows = np.flatnonzero(is_product.any(axis=1))
    row = int(rows[0] + random.Random(seed + 100).uniform(0.25, 0.75) * (rows[-1] - rows[0]))
    y = (row + 0.5) / height
    pictures = Pictures()
    pictures.fine(plan, long_side=SIDE)
    read = pictures.read(plan, ReadingLine(x0=0.0, y0=y, x1=1.0, y1=y))
    columns = np.flatnonzero(is_product[row])
    first, last = columns[0], columns[-1]
    assert read.edges is not None
    assert read.edges[0] * width == approx(first, abs=1.0)
    assert read.edges[1] * width == approx(last + 1, abs=1.0)
    left, right = read.edges[0] * width - 0.5, read.edges[1] * width - 0.5
    for stretch in read.stretches:
        begin, end = stretch.begin * width - 0.5, stretch.end * width - 0.5
        for line in stretch.highlights:
            middle = left + (line.place + 1) / 2 * (right - left)
            wide = line.width / 2 * (right - left)
            if wide < 3 or middle - wide < begin + 1.5 or middle + wide > end - 1.5:
                continue  # a line of three pixels, or one that its stretch cuts off, has no half that a picture could be asked for
            near = np.arange(max(int(middle - wide), first), min(int(middle + wide) + 2, last))
            peak_at = int(near[mirrored[row, near].argmax()])
            found = [
                [crossing(mirrored[row], peak_at, step, share, begin - 1, end + 1) for step in (-1, 1)] for share in SHARES
            ]
            if any(at is None for pair in found for at in pair):
                continue
            # A peak at a hard edge lies within the edge's own pixel: its height is known to a fourteenth, so half of it is too.
            (a0, b0), (a, b), (a1, b1) = found
            assert (a0 + b1) / 2 - 0.5 < middle < (a1 + b0) / 2 + 0.5, (seed, line)
            assert b1 - a1 - 1.0 < wide / 1.05, (seed, line)
            assert wide < 1.05 * (b0 - a0 + 1.0), (seed, line)
            between = np.arange(math.ceil(a), math.floor(b) + 1)
            assert line.peak_stops == approx(np.log2(whole[row, between].max() / MIDDLE_GREY), abs=0.1), (seed, line)


def test_a_label_or_a_bright_background_is_no_line():
    """A pale label lit from the front and a lit background beside a bottle: no panel, so nothing is mirrored on its body."""
    base = scenes.plan(lights=(scenes.head(power=-2.0),), room_lux=0.0)
    bright = replace(base.background, skin=replace(base.background.skin, reflectance=Reflectance.grey(0.8)))
    lamp = scenes.panel("back", x=0.0, y=0.5, z=-0.8, turn=180, width=0.4, height=0.4, power=-2.0)
    plan = replace(base, background=bright, lights=(*base.lights, lamp))
    pictures = Pictures()
    label = pictures.read(plan, ReadingLine(x0=0.0, y0=0.62, x1=1.0, y1=0.62))
    assert label.mixed.max() > MIDDLE_GREY / 2
    assert not [one for one in label.highlights if abs(one.place) > 0.3], label.words
    # The head itself is a small image on the glass: the only line there may be.
    above = pictures.read(plan, ReadingLine(x0=0.0, y0=0.4, x1=1.0, y1=0.4))
    assert all(one.width < 0.1 for one in above.highlights)


def test_a_row_that_is_all_label_says_so():
    wrapped = Zone(low_m=0.04, high_m=0.13, width_rad=2 * math.pi, skin=scenes.PAPER, name="Sleeve")
    base = scenes.plan()
    plan = replace(base, product=replace(base.product, bands=(wrapped,)))
    read = Pictures().read(plan, ReadingLine(x0=0.0, y0=0.62, x1=1.0, y1=0.62))
    assert read.words == ["All Sleeve here: nothing mirrors."]
    assert Pictures().read(plan, ReadingLine(x0=0.0, y0=0.02, x1=1.0, y1=0.02)).words == ["The line misses the product."]


def test_a_line_that_a_polariser_kills_is_gone_from_the_reading():
    """At Brewster's angle (tan of it = 1.5) what an upright cylinder mirrors swings upright alone: a filter that passes what swings
    level leaves nothing.   Source: Brewster's law.
    """
    off = math.atan(1.5)
    x, z = -math.sin(2 * off), math.cos(2 * off)
    panel = scenes.panel("left", x=x, y=0.15, z=z, turn=math.degrees(math.atan2(-x, -z)), width=0.05, height=1.0, power=-2)
    base = scenes.bare(scenes.cylinder(), lights=(panel,), cam=scenes.camera(distance=4.0, focal=0.3))
    line = ReadingLine(x0=0.0, y0=0.5, x1=1.0, y1=0.5)
    (open_,) = Pictures().read(base, line).highlights
    assert open_.place == approx(-math.sin(off), abs=0.03)

    def peak(turn_deg):
        polariser = Polariser(turn_rad=math.radians(turn_deg))
        found = Pictures().read(replace(base, before_lens=BeforeLens(polariser=polariser)), line).highlights
        return found[0].peak_stops if found else -math.inf

    # Upright light passes whole but for the filter's own loss beyond one stop, which the unpolarised scene loses too.
    assert peak(0) == approx(open_.peak_stops + 1 - 1.5, abs=0.05)
    assert peak(90) < peak(0) - 5


def test_a_line_ends_where_the_table_is_mirrored_and_where_the_label_hides_it():
    """The end is where the ray mirrored at the line meets the table: by hand from the plane the lens, the line and the panel lie in.

    Source: the law of reflection on an upright cylinder: a ray keeps its slope; it meets the table behind its front edge.
    """
    plan = scenes.plan(room_lux=0.0)
    values = Pictures().named(plan, (NamedReading(key="l", name="Left", at=EdgeLine(left=True, low=0.02, high=0.6)),))
    value = values["l"]
    assert "hidden by" in value.words
    first, last = value.runs[0], value.runs[-1]
    band = plan.product.bands[0]
    # The label begins 4 cm above the foot and ends at 13: at the line's place it is the label's own edge.
    assert first.high_m == approx(band.low_m, abs=0.002)
    assert last.low_m == approx(band.high_m, abs=0.002)


def test_readings_follow_what_is_shown():
    plan = scenes.plan()
    reading = (NamedReading(key="r", name="Right", at=EdgeLine(left=False, low=0.5, high=0.6)),)
    pictures = Pictures()
    both = pictures.named(plan, reading)["r"]
    alone = pictures.named(plan, reading, shown=Shown(alone="left"))["r"]
    assert both is not None
    assert alone is None
    line = ReadingLine(x0=0.0, y0=0.4, x1=1.0, y1=0.4)
    assert {h.place > 0 for h in pictures.read(plan, line).highlights if abs(h.place) > 0.3} == {True, False}
    assert all(h.place < 0.3 for h in pictures.read(plan, line, shown=Shown(alone="left")).highlights)
    assert pictures.read(plan, line, shown=Shown(black=True)).highlights == []


@pytest.mark.parametrize(("height", "camera_height"), [(0.05, 0.1), (0.05, 0.4), (0.3, 0.2)])
def test_until_it_is_moved_the_line_lies_across_the_product_where_that_is_bare(height, camera_height):
    wrapped = Zone(low_m=0.3 * height, high_m=height, width_rad=2 * math.pi, skin=scenes.PAPER)
    product = Product(
        name="Jar", shape=Turned(profile=scenes.cylinder(0.04, height)), body=scenes.BLACK_GLASS, bands=(wrapped,)
    )
    cam = scenes.camera(height=camera_height, aim=0.15, focal=0.05)
    plan = scenes.plan(product=product, camera=cam, lights=(scenes.panel("left"),))
    read = Pictures().read(plan, usual_line(plan))
    assert read.edges is not None
    assert read.stretches
    assert not read.covered
