"""Shapes a tape describes: the sweep of paper, against lengths and directions by hand."""

import math

import numpy as np
import pytest

from fotaxis.core.geometry import solids


def test_paper_hangs_down_in_front_over_a_bend():
    flat = solids.sweep(width_m=1.0, front_m=0.5, back_m=0.5, height_m=0.8, bend_m=0.2)
    hung = solids.sweep(width_m=1.0, front_m=0.5, back_m=0.5, height_m=0.8, bend_m=0.2, drop_m=0.4, front_bend_m=0.1)
    assert hung.vertices[:, 1].min() == pytest.approx(-0.4)
    assert hung.vertices[:, 1].max() == pytest.approx(flat.vertices[:, 1].max())
    assert hung.vertices[:, 2].max() == pytest.approx(0.5)
    # Its length along the middle by hand: 0.3 hanging, two quarter circles, the flat between them, the rest upright.
    line = hung.vertices[np.abs(hung.vertices[:, 0]) < 1e-9]
    length = np.linalg.norm(np.diff(line, axis=0), axis=1).sum()
    assert length == pytest.approx(0.3 + math.pi / 2 * 0.3 + 0.7 + 0.6, rel=1e-3)
    # It faces the camera where it hangs, and up where it lies.
    hanging = hung.vertices[:, 1] < -0.15
    assert hung.normals[hanging] == pytest.approx(np.tile([0.0, 0.0, 1.0], (hanging.sum(), 1)))
