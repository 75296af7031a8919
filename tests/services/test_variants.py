"""Contact sheets of variants: names, equal exposure, one picture."""

from __future__ import annotations

import io
import math
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image
from pytest import approx

from fotaxis.core.camera.exposure import decode_srgb
from fotaxis.core.errors import DomainError
from fotaxis.core.lights.card_finishes import FINISH
from fotaxis.core.lights.fixtures import Card
from fotaxis.formats.picture_files import contact_sheet
from fotaxis.services.pictures import Pictures
from fotaxis.services.variants import variants
from tests import scenes


def lit_through_a_sheet():
    head = scenes.head("h", x=-0.9, y=0.2, z=-0.3, turn=70.0, tilt=0.0, power=-5.0)
    sheet = Card(
        key="s", name="Sheet", stance=scenes.stance(-0.5, 0.2, -0.15, 70.0), width_m=0.5, height_m=0.7, finish=FINISH["half white"]
    )  # fmt: skip
    return scenes.plan(lights=(replace(head, grid_angle_rad=0.0),), cards=(sheet,))


@pytest.mark.parametrize(("what", "key", "count"), [("sheets", "s", 10), ("grids", "h", 4), ("polariser", "", 4)])
def test_variants_are_named_and_equally_exposed(what, key, count):
    found = variants(lit_through_a_sheet(), what, key, Pictures())
    assert len(found) == count
    assert len({one.name for one in found}) == count
    assert found[0].more == 0
    stage = Pictures()
    is_product = stage.product_of(lit_through_a_sheet(), long_side=300)
    bright = [float(np.quantile(decode_srgb(one.picture)[..., 1][is_product], 0.99)) for one in found if abs(one.more) < 8]
    top = [level for level in bright if level < 0.95]
    # Independent reading of the finished pictures: the product's brightest hundredth is equally bright in all.
    assert max(top) / min(top) == approx(1.0, abs=0.12)


def test_a_denser_sheet_asks_for_more():
    more = {one.name: one.more for one in variants(lit_through_a_sheet(), "sheets", "s", Pictures())}
    assert more["light frost"] < 0 < more["light grid cloth"]


def test_what_has_no_variants_is_refused():
    with pytest.raises(DomainError, match="no sheet"):
        variants(scenes.plan(), "sheets", "left", Pictures())
    with pytest.raises(DomainError, match="choose sheets"):
        variants(scenes.plan(), "colours", "", Pictures())


def test_they_come_as_one_picture_with_room_for_every_name():
    parts = [(f"variant {i}", np.full((40, 30, 3), 10 * i, np.uint8)) for i in range(7)]
    sheet = np.asarray(Image.open(io.BytesIO(contact_sheet(parts))))
    rows = math.ceil(7 / 5)
    assert sheet.shape[0] == rows * (40 + 26 + 10) + 10
    # The seventh stands second in the second row.
    assert (sheet[10 + 76 : 10 + 76 + 40, 10 + 40 : 10 + 40 + 30] == 60).all()
