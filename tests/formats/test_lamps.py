"""Lamp files: LM-63's keywords, orders and types, read as the standard says, and refused in words."""

import math

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.errors import FormatError
from fotaxis.formats import lamp_file


def ies(header="IESNA:LM-63-2002", keywords=("[TEST] 17", "[LUMINAIRE] Made-up downlight"), tilt="TILT=NONE", photometry=1, units=2,
        size=(0.1, 0.1, 0), vertical=(0, 30, 60, 90), horizontal=(0,), candela=((1000, 800, 300, 0),), multiplier=1.0,
        ballast=1.0, extra=""):  # fmt: skip
    lines = [header, *keywords, tilt]
    if extra:
        lines.append(extra)
    lines += [
        f"1 1000 {multiplier} {len(vertical)} {len(horizontal)} {photometry} {units} {size[0]} {size[1]} {size[2]}",
        f"{ballast} 1 20", " ".join(map(str, vertical)), " ".join(map(str, horizontal)),
        *(" ".join(map(str, row)) for row in candela),
    ]  # fmt: skip
    return "\r\n".join(lines).encode("latin-1")


def at(lamp, angle):
    return float(np.interp(angle, lamp.angles_deg, lamp.candela))


def test_type_c_of_a_round_lamp():
    lamp = lamp_file.parse(ies())
    assert lamp.name == "Made-up downlight"
    assert lamp.keywords["TEST"] == "17"
    assert [at(lamp, a) for a in (0, 15, 30, 60, 90)] == approx([1000, 900, 800, 300, 0])
    assert lamp.uneven == approx(0)
    assert lamp.diameter_m == approx(math.sqrt(4 * 0.01 / math.pi))


def test_type_c_given_for_a_quarter_is_folded_about_the_axis():
    # 1000 cd in the planes 0 and 180, 500 in 90 and 270: the mean about the axis is 750.
    lamp = lamp_file.parse(ies(horizontal=(0, 90), candela=((1000, 1000, 1000, 1000), (1000, 500, 500, 500))))
    assert at(lamp, 45) == approx(750, rel=0.01)
    assert lamp.uneven == approx(0.25, abs=0.01)


def test_type_b_of_a_floodlight():
    # Horizontal and vertical angles about the axis, straight ahead 0, 0; a beam that is 4000 cd within 20 degrees.
    angles = (-40, -20, 0, 20, 40)
    rows = [[4000 * (abs(h) <= 20) * (abs(v) <= 20) for v in angles] for h in angles]
    lamp = lamp_file.parse(ies(photometry=2, vertical=angles, horizontal=angles, candela=rows, units=1, size=(-1, 0, 0)))
    assert at(lamp, 0) == approx(4000)
    assert at(lamp, 15) == approx(4000)
    assert at(lamp, 60) == 0
    assert lamp.diameter_m == approx(0.3048)  # a negative width is a diameter; units 1 are feet


def test_type_a_given_for_one_side():
    lamp = lamp_file.parse(ies(photometry=3, vertical=(0, 45, 90), horizontal=(0, 45, 90), candela=((500, 250, 0),) * 3))
    assert at(lamp, 0) == approx(500)
    assert 250 < at(lamp, 45) < 500  # level with the axis it stays, up and down it falls


def test_header_of_1986_tilt_inside_multiplier_ballast_and_more():
    data = ies(header="Made-up lamp of 1986", keywords=(), tilt="TILT=INCLUDE", multiplier=2.0, ballast=0.5,
               extra="1\r\n3\r\n0 45 90\r\n1 0.9 0.8")  # fmt: skip
    lamp = lamp_file.parse(data)
    assert at(lamp, 0) == approx(1000)  # candela x multiplier x ballast factor
    assert lamp.name == "Measured lamp"
    longer = lamp_file.parse(ies(keywords=("[LAMP] Long", "[MORE] name")))
    assert longer.name == "Long name"


@pytest.mark.parametrize(("data", "words"), [
    (b"\x89PNG", "no TILT= line"), (ies(tilt="TILT=other.tlt"), "TILT data stand in a file"), (ies()[:-12], "too early"),
    (ies(candela=((1000, "x", 1, 0),)), "is not a number"), (ies(candela=((1000, "nan", 1, 0),)), "cannot be|can be measured"),
    (ies(photometry=7), "type 7"), (ies(vertical=(0, 60, 30, 90)), "do not rise"), (ies(candela=((0, 0, 0, 0),)), "more than 0"),
    (ies(candela=((-1, 1, 1, 1),)), "0 or more"), (ies(candela=((0, 1, 1, 1),)), "no light on the lamp's axis"),
    (b"x" * 1_000_001, "larger than"), (ies().replace(b" 4 1 1 2", b" 1e9 1 1 2"), "vertical angles; there must be"),
])  # fmt: skip
def test_what_is_no_lamp_file_is_refused_with_the_reason(data, words):
    with pytest.raises(FormatError, match=words):
        lamp_file.parse(data)


def test_damaged_files_are_read_or_refused_never_more():
    rng = np.random.default_rng(5)
    whole = ies(horizontal=(0, 90), candela=((1000, 800, 300, 0),) * 2)
    for _ in range(300):
        data = bytearray(whole)
        for at_byte in rng.integers(0, len(data), 6):
            data[at_byte] = int(rng.integers(0, 256))
        try:
            lamp = lamp_file.parse(bytes(data))
        except FormatError:
            continue
        assert np.isfinite(lamp.candela).all()
