"""Lines soft on a side: the strip behind a sheet against an integral, and the line it makes read in the picture."""

import math

import numpy as np
import pytest
from pytest import approx
from scipy.integrate import quad

from fotaxis.core.errors import NoSolution
from fotaxis.core.frames.line_reading import CRISP
from fotaxis.core.proposals.soft_sheet import reads_from, soft_sheet, strip_light
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.services import wishes
from fotaxis.services.changes import applied
from fotaxis.services.pictures import Pictures
from fotaxis.services.proposals import asked_for, proposals, taken
from tests.formats import samples

CODEC = JsonShots()


@pytest.mark.parametrize(("at", "strip", "depth"), [(0.0, 0.3, 0.2), (0.2, 0.3, 0.15), (-0.1, 0.05, 0.4), (0.5, 0.1, 0.1)])
def test_a_strips_light_is_its_view_factor(at, strip, depth):
    # dF = cos cos / (2 r) per width of an infinite strip, integrated over it.   Modest, Radiative Heat Transfer, two-dimensional.
    def part(x):
        r = math.hypot(x - at, depth)
        return depth * depth / (2 * r**3)

    whole, _ = quad(part, -strip / 2, strip / 2)
    assert float(strip_light(at=at, strip_m=strip, depth_m=depth)) == approx(whole, rel=1e-6)


@pytest.mark.parametrize("wide", [0.08, 0.15, 0.3])
@pytest.mark.parametrize("mirrored", [(1.0, 1.0), (0.1, 0.35)])
@pytest.mark.parametrize(("inside", "outside"), [(True, False), (False, True), (True, True)])
def test_the_soft_end_has_half_of_the_brightest(wide, mirrored, inside, outside):
    try:
        made = soft_sheet(wide=wide, soft_inside=inside, soft_outside=outside, strip_m=0.06, mirrored=mirrored)
    except NoSolution:
        assert (inside and outside) or mirrored[0] < mirrored[1] or wide < 0.1  # against glass that mirrors more outside
        return
    u = np.linspace(0, wide, 401)
    gloss = np.interp(u / wide, [0, 1], mirrored)
    seen = strip_light(at=u - made.strip_at, strip_m=made.strip_m, depth_m=made.depth_m) * gloss
    seen = seen / seen.max()
    assert seen[0] == approx(0.5, abs=0.01) if inside else seen[0] >= 0.49
    assert seen[-1] == approx(0.5, abs=0.01) if outside else seen[-1] >= 0.49
    assert made.begin <= 0
    assert made.end >= wide
    assert (made.begin < -0.02) == inside
    assert (made.end > wide + 0.02) == outside


def test_on_glass_an_even_line_reads_further_out():
    assert reads_from((1.0, 1.5), 0.8, 0.9) == 0.8
    # By hand: four times as much at the outer end, growing evenly: half of it is reached after a third of the way.
    assert reads_from((0.1, 0.4), 0.8, 0.9) == approx(0.8 + 0.1 / 3, abs=0.002)


def test_past_a_crisp_edge_no_bare_strip_is_seen():
    made = soft_sheet(wide=0.2, soft_inside=True, soft_outside=False, strip_m=0.1, slants=(-0.2, 0.25))
    assert made.strip_at + made.strip_m / 2 < made.end + 0.25 * made.depth_m


@pytest.mark.parametrize("material", ["chrome", "black gloss"])
@pytest.mark.parametrize(
    ("near", "inside", "outside"), [(0.7, "soft", "crisp"), (0.78, "soft", "crisp"), (0.75, "crisp", "soft")]
)
def test_the_line_lies_and_looks_as_it_was_wished_for(material, near, inside, outside):
    document = samples.raw()
    document |= {
        "lights": [], "cards": [],
        "readings": [{"kind": "edge", "key": "line", "name": "Line", "side": "left", "low": 0.45, "high": 0.6}],
        "wishes": [
            {"kind": "place", "key": "w", "reading": "line", "near": near, "far": 0.93, "within": 0.03, "height": 0.5,
             "inside": inside, "outside": outside},
        ],
    }  # fmt: skip
    document["subject"] |= {"bands": [], "body": {"material": material}}
    document = CODEC.check(document)
    pictures = Pictures()
    asked = asked_for(pictures, CODEC, document, CODEC.wishes(document)[0])
    sheet = next(one for one in proposals(asked) if "acrylic" in one.title)
    after = CODEC.check(applied(document, taken(asked, sheet)))
    plan = CODEC.plan(after)
    pictures.fine(plan, long_side=800)
    value = pictures.named(plan, CODEC.readings(after), long_side=800)["line"]
    assert value is not None
    assert abs(value.place) - value.width / 2 == approx(near, abs=0.02)
    assert abs(value.place) + value.width / 2 == approx(0.93, abs=0.02)
    softer, crisper = (value.inner, value.outer) if inside == "soft" else (value.outer, value.inner)
    assert softer > CRISP
    assert crisper <= CRISP
    judged = wishes.judged_wishes(plan, CODEC.wishes(after), CODEC.readings(after), {"line": value})
    assert judged[0].judged.state == "met"


def test_a_strip_that_is_too_wide_is_said_so():
    with pytest.raises(NoSolution, match="mask it"):
        soft_sheet(wide=0.05, soft_inside=True, soft_outside=True, strip_m=0.3)
