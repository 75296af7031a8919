"""The contrast of lettering: pictures made by hand, and a rendered label against what its file says and what a veil must do to it."""

import json
import math

import numpy as np
import pytest

from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.frames.readings.lettering import Lettering, contrast_stops
from fotaxis.core.frames.readings.reading import LayeredFrame
from fotaxis.formats import artwork_text
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.services.pictures import Pictures
from tests.core.frames.test_readings import HEIGHT, WIDTH, frame_of, product
from tests.formats.samples import DEMO


def stripes(ground, ink, *, fall=1.0, seed=0):
    """A ground with strokes 3 pixels wide, falling off across by a factor, with a little grain."""
    levels = np.full((HEIGHT, WIDTH), ground)
    levels[60:120:12] = levels[61:120:12] = levels[62:120:12] = ink
    levels *= np.linspace(1.0, fall, WIDTH)
    return levels * np.exp(np.random.default_rng(seed).normal(0, 0.01, levels.shape))


def read(levels):
    return Lettering(low=0.2, high=0.9).read(frame_of(levels[..., None].repeat(3, axis=2).astype(np.float32)))


@pytest.mark.parametrize(("ground", "ink"), [(0.6, 0.06), (0.05, 0.5), (0.4, 0.2)])
@pytest.mark.parametrize("fall", [1.0, 0.35])
def test_strokes_are_told_against_their_ground_in_uneven_light_too(ground, ink, fall):
    value = read(stripes(ground, ink, fall=fall))
    assert value.stops == pytest.approx(math.log2(ink / ground), abs=0.1)
    assert ("over" in value.words) is (ink > ground)


def test_a_blank_label_has_none():
    value = read(stripes(0.5, 0.5, fall=0.5))
    assert value.stops is None
    assert "no lettering stands out" in value.words


def test_nothing_is_read_where_the_product_is_not_seen():
    frame = LayeredFrame(
        pictures=np.zeros((1, 50, 50, 3), np.float32), gains=np.ones(1), is_product=np.zeros((50, 50), bool)
    )
    assert Lettering(low=0.1, high=0.6).read(frame) is None
    assert product().any()


def test_a_veil_over_both_brings_them_together_as_it_must():
    plain, veiled = stripes(0.5, 0.05), stripes(0.5, 0.05) + 0.3
    assert read(veiled).stops == pytest.approx(math.log2(0.35 / 0.8), abs=0.1)
    assert read(veiled).stops > read(plain).stops


def test_grain_alone_is_no_lettering():
    rng = np.random.default_rng(1)
    rows, columns = np.mgrid[0:80, 0:80].reshape(2, -1)
    stops, _ = contrast_stops(0.4 * np.exp(rng.normal(0, 0.03, rows.size)), rows, columns)
    assert stops is None


def test_a_rendered_label_is_as_far_apart_as_its_file():
    """Two tones of a made file on matte paper, as far apart as their codes (IEC 61966-2-1), but for blur and the lens's glare."""
    picture = np.full((200, 300, 4), 255, np.uint8)
    picture[..., :3] = 230
    for row in range(30, 170, 28):
        picture[row : row + 12, 40:260, :3] = 70
    codec = JsonShots()
    document = json.loads((DEMO / "elder-cordial.json").read_text())
    label = document["subject"]["bands"][0]
    label |= {"artwork": {"picture": artwork_text.encode(picture)}, "skin": {"reflectance": [0.8, 0.8, 0.8]}}
    plan = codec.plan(codec.check(document))
    low, high = (100 * plan.product.profile.top_m, label["low_cm"] - 1), label["high_cm"] + 1
    reading = Lettering(low=max(0.0, low[1] / low[0]), high=high / low[0])
    pictures = Pictures()
    pictures.fine(plan, long_side=700)
    value = pictures.named(plan, (NamedReading(key="l", name="L", at=reading),))["l"]
    ink, paper = (((code / 255 + 0.055) / 1.055) ** 2.4 for code in (70, 230))
    assert value.zone == label["name"]
    assert value.stops == pytest.approx(math.log2(ink / paper), abs=0.35)
