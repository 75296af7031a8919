"""Thin-lens figures against textbook values."""

import math

import pytest
from pytest import approx

from fotaxis.core.camera import lens
from fotaxis.core.errors import DomainError


def test_equal_sizes_at_twice_the_focal_length():
    # Textbook: at d = 2 f the image stands at 2 f and is as large as the subject.
    assert lens.image_distance_m(focal_length_m=0.1, subject_distance_m=0.2) == approx(0.2)
    assert lens.magnification(focal_length_m=0.1, subject_distance_m=0.2) == approx(1.0)


def test_hyperfocal_of_the_textbook_example():
    # By hand: 50 mm, f/8, c = 0.03 mm: 2500 / 0.24 = 10416.7 mm, plus f.
    h = lens.hyperfocal_m(focal_length_m=0.05, f_number=8, circle_m=0.03e-3)
    assert h == approx(10.4667, abs=1e-4)
    near, far = lens.depth_of_field_m(focal_length_m=0.05, f_number=8, circle_m=0.03e-3, subject_distance_m=h)
    assert near == approx(h / 2, rel=1e-9)  # focused at the hyperfocal distance everything from half of it is sharp
    assert math.isinf(far)


def test_airy_disc():
    # 2 * 1.22 * 550 nm * 11 = 14.8 um.
    assert lens.airy_diameter_m(f_number=11) == approx(14.76e-6, rel=1e-3)


def test_a_lens_cannot_focus_within_its_focal_length():
    with pytest.raises(DomainError, match="100 mm"):
        lens.image_distance_m(focal_length_m=0.1, subject_distance_m=0.1)
