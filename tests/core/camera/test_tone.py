"""Black and white point, and the soft shoulder, against what they promise and a formula written out once more here."""

import itertools

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.exposure import encode_srgb
from fotaxis.core.camera.tone import Tone, soft_shoulder
from fotaxis.core.errors import DomainError
from fotaxis.core.render.layers import Layers, develop
from fotaxis.core.render.lens.through_lens import finished

LEVELS = np.array([[0.02, 0.18, 0.5], [0.9, 0.7, 0.1], [3.0, 2.2, 0.1], [40.0, 30.0, 1.0], [1.0, 1.0, 1.0]], np.float32)


def delivered(levels, tone):
    layers = Layers(keys=("room",), pictures=levels.reshape(1, 1, -1, 3), lost_share=0.0)
    return develop(layers, np.ones(1), tone)[0]


def test_as_usual_nothing_changes():
    assert np.array_equal(delivered(LEVELS, Tone()), encode_srgb(LEVELS))
    assert Tone().words == ""


def test_black_and_white_point_stretch_output_values():
    # Levels as every retouching program has them: (value - black) / (white - black), of 255.
    ramp = np.repeat(np.linspace(0, 1, 200, dtype=np.float32)[:, None], 3, axis=1)
    plain = encode_srgb(ramp).astype(float)
    seen = delivered(ramp, Tone(black=12, white=240)).astype(float)
    assert seen == approx(np.clip((plain - 12) / (240 - 12) * 255, 0, 255), abs=1.2)
    assert seen[0, 0] == 0
    assert seen[-1, 0] == 255
    assert Tone(black=12, white=240, shoulder=True).words == "black point 12, white point 240, soft shoulder"


def test_a_soft_shoulder_keeps_hue_and_pales():
    def by_hand(rgb):  # the formula, once more
        peak = max(rgb)
        if peak <= 0.8:
            return rgb
        low = 1 - 0.04 / (peak - 0.6)
        pale = 1 - 1 / (0.15 * (peak - low) + 1)
        return [c * low / peak * (1 - pale) + low * pale for c in rgb]

    for level in LEVELS:
        got = soft_shoulder(*map(float, level))
        assert got == approx(by_hand([float(c) for c in level]), rel=1e-5)
        assert max(got) < 1
    pale = [min(soft_shoulder(k, 0.7 * k, 0.05 * k)) / max(soft_shoulder(k, 0.7 * k, 0.05 * k)) for k in (0.5, 1, 4, 16, 64)]
    assert pale == sorted(pale)
    assert pale[0] == approx(0.05)
    assert pale[-1] > 0.8
    up = [sum(soft_shoulder(k, 0.7 * k, 0.05 * k)) for k in np.linspace(0.1, 30, 400)]
    assert all(b > a for a, b in itertools.pairwise(up))  # brighter stays brighter


@pytest.mark.parametrize("tone", [Tone(), Tone(black=20, white=250), Tone(shoulder=True), Tone(black=5, shoulder=True)])
def test_a_drag_is_toned_as_the_picture_at_rest(tone):
    levels = np.random.default_rng(3).uniform(0, 2.5, (6, 5, 3)).astype(np.float32)
    assert np.array_equal(finished(levels, None, tone), delivered(levels.reshape(-1, 3), tone).reshape(levels.shape))


@pytest.mark.parametrize("wrong", [{"black": -1}, {"black": 200}, {"white": 100}, {"white": 256}])
def test_points_that_make_no_picture_are_refused(wrong):
    with pytest.raises(DomainError, match="must be from"):
        Tone(**wrong)
