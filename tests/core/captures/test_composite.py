"""Exposures joined: against the frame they are parts of, against alpha compositing by another library, and by hand."""

import numpy as np
import pytest
from PIL import Image

from fotaxis.core.camera.tone import Tone
from fotaxis.core.captures.composite import LIGHTEST, OVER, SUM, Plate, along, composed, half_mirrored, upside_down
from fotaxis.core.captures.merge import encoded
from fotaxis.core.errors import DomainError
from fotaxis.formats import shot_file
from fotaxis.services.captures.capture import capture_of
from fotaxis.services.captures.composite import joined
from fotaxis.services.pictures import Pictures
from tests.formats import samples

SIZE = (40, 30)


def drawn(seed, high=0.9):
    return np.random.default_rng(seed).uniform(0, high, (SIZE[1], SIZE[0], 3)).astype(np.float32)


def test_lights_shot_one_by_one_add_up_to_the_frame():
    # The same set, light by light and all at once: light adds. Within 1/65535, the step of the 16 bits it is written at.
    from fotaxis.formats.shot_codec import JsonShots

    codec, pictures = JsonShots(), Pictures()
    for name in ("elder-cordial", "gooseberry-with-glass", "sparkling-can", "gift-carton"):
        document = shot_file.read((samples.DEMO / f"{name}.json").read_bytes()).model_dump(mode="json")
        document["room_lux"] = 0.0  # room light is in every exposure; a real frame has it each time too
        captures = []
        for light in document["lights"]:
            lit = [{**one, "on": one["key"] == light["key"]} for one in document["lights"]]
            captures.append(capture_of({**document, "lights": lit, "captures": captures}))
        made = joined(codec.check({**document, "captures": captures}), codec, pictures, long_side=160)
        whole = pictures.levels(codec.plan(document), long_side=160)
        assert len(captures) > 1
        off = np.abs(np.minimum(made.levels, 1) - np.minimum(whole, 1))
        assert off.max() < 1 / 65535, name
        plain = Tone()
        apart = encoded(made.levels, white=np.ones(3), tone=plain).astype(int) - encoded(whole, white=np.ones(3), tone=plain)
        assert np.abs(apart).max() <= 1


def test_over_is_alpha_compositing():
    # Independent: Pillow's alpha_composite, 8 bits, so within a step and a half of them.
    below, above = drawn(1), drawn(2)
    mask = np.linspace(0, 1, SIZE[0], dtype=np.float32)[None, :].repeat(SIZE[1], 0)
    found = composed([Plate(picture=below), Plate(picture=above, mask=mask, blend=OVER)], SIZE)

    def image(picture, alpha):
        codes = np.concatenate([picture * 255, alpha[..., None] * 255], axis=2)
        return Image.fromarray((codes + 0.5).astype(np.uint8), "RGBA")

    theirs = Image.alpha_composite(image(below, np.ones_like(mask)), image(above, mask))
    assert np.abs(found - np.asarray(theirs)[..., :3] / 255).max() < 1.5 / 255


def test_blends_by_hand():
    a, b = np.full((2, 2, 3), 0.2, np.float32), np.full((2, 2, 3), 0.3, np.float32)
    half = np.full((2, 2), 0.5, np.float32)
    for blend, mask, stops, wanted in (
        (SUM, None, 0.0, 0.5), (SUM, half, 0.0, 0.35), (SUM, None, -1.0, 0.35), (LIGHTEST, None, 0.0, 0.3),
        (LIGHTEST, half, 0.0, 0.2), (OVER, None, 0.0, 0.3), (OVER, half, 1.0, 0.4),
    ):  # fmt: skip
        plates = [Plate(picture=a), Plate(picture=b, blend=blend, mask=mask, strength_stops=stops)]
        assert composed(plates, (2, 2)) == pytest.approx(np.full((2, 2, 3), wanted), abs=1e-6), (blend, stops)
        read = along([np.array([0.2]), np.array([0.3])], plates, np.array([[0.25, 0.25]]))
        assert read[0] == pytest.approx(wanted, abs=1e-6)


def test_what_a_frame_has_clipped_is_gone_before_it_is_joined():
    bright = np.full((1, 1, 3), 4.0, np.float32)
    made = composed([Plate(picture=bright, strength_stops=-1)], (1, 1))
    assert made.max() == pytest.approx(0.5)  # not 2: the frame holds no more than white


def test_a_good_half_mirrored_is_even_about_the_axis():
    picture = drawn(3)
    for good, axis in (("left", 20.0), ("right", 17.3), ("left", 18.5)):
        made = half_mirrored(picture, axis, good=good)
        kept = np.arange(SIZE[0]) + 0.5 < axis if good == "left" else np.arange(SIZE[0]) + 0.5 >= axis
        assert np.array_equal(made[:, kept], picture[:, kept])
    made = half_mirrored(picture, 20.0, good="left")
    assert np.allclose(made[:, 20:40], made[:, :20][:, ::-1])  # axis between pixels: exact


def test_turned_over_at_the_foot():
    picture = drawn(4)
    made = upside_down(picture, 20.0)
    assert np.allclose(made[20:30], picture[10:20][::-1], atol=1e-6)  # by hand: row 20 shows row 19
    assert (upside_down(picture, 29.0)[:5] == 0).sum() >= 0


def test_wrong_ways_of_joining_are_refused():
    with pytest.raises(DomainError, match="sum, lightest, over"):
        Plate(picture=drawn(1), blend="multiply")
    with pytest.raises(DomainError, match="left or right"):
        Plate(picture=drawn(1), sided="top")
    with pytest.raises(DomainError, match="strength"):
        Plate(picture=drawn(1), strength_stops=float("nan"))
