"""What wishes say of frames, against readings made by hand."""

import math

import numpy as np
import pytest

from fotaxis.core.constants import MIDDLE_GREY
from fotaxis.core.errors import DomainError
from fotaxis.core.frames.readings.edge import LineValue
from fotaxis.core.frames.readings.evenness import Patch
from fotaxis.core.frames.readings.reading import LayeredFrame
from fotaxis.core.frames.readings.spot import SpotValue
from fotaxis.core.wishes import WISHES
from fotaxis.core.wishes.absent import Absent
from fotaxis.core.wishes.even import Even
from fotaxis.core.wishes.level import Level
from fotaxis.core.wishes.place import Place
from fotaxis.core.wishes.ratio import Ratio
from fotaxis.core.wishes.wish import MET, OPEN, UNSEEN, Seen
from tests.core.frames.test_readings import FOOT, HEIGHT, LEFT, RIGHT, TOP, WIDTH, product

NAMES = {"label": "Label", "line": "Left line", "rim": "Rim"}


def spot(stops):
    return SpotValue(level=MIDDLE_GREY * 2.0**stops, shares=np.ones(1), x=0.5, y=0.5)


def line(place=-0.9, width=0.1, *, inner=0.05, outer=0.3, found=1.0, peak=2.0):
    return LineValue(
        place=place, width=width, inner=inner, outer=outer, peak_stops=peak, uneven_stops=0.2, found=found,
        rows=np.array([[0.3, 0.5, peak]]), runs=(),
    )  # fmt: skip


@pytest.mark.parametrize(("side", "now", "state", "words"), [
    ("at", 0.1, MET, "is +0.1"), ("at", -0.6, OPEN, "is −0.6: 0.6 stops too dark"), ("at", 1.3, OPEN, "is +1.3: 1.3 stops too bright"),
    ("at most", -3, MET, "is −3.0"), ("at most", 0.4, OPEN, "is +0.4: 0.4 stops too bright"), ("at least", 3, MET, "is +3.0"),
    ("at least", -2, OPEN, "is −2.0: 2.0 stops too dark"),
])  # fmt: skip
def test_a_level(side, now, state, words):
    told = Level(reading="label", stops=0, within=0.17, side=side).judge(Seen(values={"label": spot(now)}, names=NAMES))
    assert (told.state, told.words) == (state, words)


def test_a_background_without_light_is_black_enough():
    dark = SpotValue(level=0.0, shares=np.zeros(1), x=0.5, y=0.5)
    told = Level(reading="label", stops=-6, within=0.2, side="at most").judge(Seen(values={"label": dark}, names=NAMES))
    assert (told.state, told.figure) == (MET, "black")


def test_a_ratio():
    wish = Ratio(reading="rim", over="label", stops=4 / 3, within=0.17)
    assert wish.judge(Seen(values={"rim": spot(1.4), "label": spot(0)}, names=NAMES)).state == MET
    told = wish.judge(Seen(values={"rim": spot(0.5), "label": spot(0.2)}, names=NAMES))
    assert (told.state, told.words) == (OPEN, "is +0.3: 1.0 stops too little")
    assert wish.judge(Seen(values={"rim": spot(1), "label": None}, names=NAMES)).state == UNSEEN
    with pytest.raises(DomainError, match="needs two readings"):
        Ratio(reading="rim", over="rim", stops=0, within=0.2)


def test_where_a_line_lies_and_how_its_sides_look():
    wish = Place(reading="line", near=0.85, far=0.95, within=0.03, height=0.5, inside="crisp", outside="soft")
    assert wish.judge(Seen(values={"line": line()}, names=NAMES)).state == MET
    told = wish.judge(Seen(values={"line": line(place=-0.85, width=0.2, inner=0.4, found=0.3)}, names=NAMES))
    assert told.state == OPEN
    assert told.words == "its inner end is 10 % too far in, it is soft inside, it is seen over 30 % of its height"
    right = Place(reading="line", near=0.85, far=0.95, within=0.03, height=0.0, inside="any", outside="any")
    assert right.judge(Seen(values={"line": line(place=0.9)}, names=NAMES)).state == MET
    with pytest.raises(DomainError, match="further out"):
        Place(reading="line", near=0.9, far=0.8, within=0.03, height=0, inside="any", outside="any")


def test_nothing_mirrored():
    wish = Absent(reading="line")
    assert wish.judge(Seen(values={"line": None}, names=NAMES)).state == MET
    told = wish.judge(Seen(values={"line": line(found=0.5)}, names=NAMES))
    assert (told.state, told.figure) == (OPEN, "50 %")


def test_a_reading_that_was_removed_is_said():
    for wish in (
        Even(reading="gone", within=0.3),
        Absent(reading="gone"),
        Level(reading="gone", stops=0, within=0.2, side="at"),
    ):
        told = wish.judge(Seen(values={}, names=NAMES))
        assert told.state == UNSEEN
        assert "taken away" in told.words


def test_every_kind_makes_a_wish_of_its_usual_measures():
    for kind in WISHES.values():
        values = {m.name: m.usual for m in kind.measures} | dict(zip(kind.refs, ("line", "label"), strict=False))
        made = kind.make(values)
        assert made.words
        assert made.judge(Seen(values={"line": line(), "label": spot(0)}, names=NAMES)).state in (MET, OPEN, UNSEEN)


@pytest.mark.parametrize(("down", "across"), [(0.0, 0.0), (1.0, 0.0), (0.0, 0.6), (0.5, 0.3)])
def test_a_patch_reads_how_even_it_is_past_its_print(down, across):
    # By hand: a level that falls by `down` stops from foot to top and `across` stops from left to right, dark letters on it.
    rows = np.linspace(0, 1, FOOT - TOP + 1)[::-1, None]
    columns = np.linspace(0, 1, RIGHT - LEFT + 1)[None, :]
    levels = np.zeros((2, HEIGHT, WIDTH, 3), np.float32)
    levels[1, TOP : FOOT + 1, LEFT : RIGHT + 1] = (0.18 * 2.0 ** (-down * rows - across * columns))[..., None]
    levels[1, TOP + 70 : TOP + 74, LEFT + 20 : LEFT + 50] *= 0.1
    frame = LayeredFrame(pictures=levels, gains=np.ones(2), is_product=product())
    value = Patch(low=0.2, high=0.8, part=0.5).read(frame)
    assert value.down_stops == pytest.approx(0.6 * down, abs=0.03)
    assert value.across_stops == pytest.approx(0.5 * across, abs=0.03)
    assert value.level_stops == pytest.approx(-down / 2 - across / 2, abs=0.04)
    assert list(value.shares) == pytest.approx([0, 1])
    assert value.uneven == max(value.down_stops, value.across_stops)
    assert math.isclose(value.corners[:, 0].mean(), (LEFT + RIGHT + 1) / 2 / WIDTH, abs_tol=0.01)
    even = Even(reading="label", within=0.35).judge(Seen(values={"label": value}, names=NAMES))
    assert (even.state == MET) == (value.uneven <= 0.35)
