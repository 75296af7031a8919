"""Reflectance against textbook values."""

import math

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.errors import DomainError
from fotaxis.core.materials import fresnel


def test_normal_incidence():
    # ((n - 1) / (n + 1))^2: 4.00 % for glass, 2.01 % for water. Textbook Fresnel.
    assert fresnel.reflectance(1.0, 1.5) == approx(0.04, abs=1e-12)
    assert fresnel.reflectance(1.0, 1.33) == approx(0.0201, abs=5e-5)


def test_brewster_angle_and_the_s_part_there():
    # Textbook: n = 1.5: 56.31 degrees, R_s there 14.79 %, R_p nothing.
    angle = fresnel.brewster_angle_rad(index=1.5)
    assert math.degrees(angle) == approx(56.31, abs=0.005)
    rs, rp = fresnel.reflectance_sp(math.cos(angle), 1.5)
    assert rs == approx(0.1479, abs=5e-5)
    assert rp == approx(0.0, abs=1e-12)


def test_total_internal_reflection_beyond_the_critical_angle():
    critical = math.asin(1 / 1.5)
    assert fresnel.reflectance_sp(math.cos(critical + 1e-6), 1 / 1.5) == (1.0, 1.0)
    assert fresnel.reflectance(math.cos(critical - 0.02), 1 / 1.5) < 0.6


def test_grazing_incidence_reflects_everything():
    assert fresnel.reflectance(0.0, 1.5) == approx(1.0)


def test_reciprocity_from_both_sides():
    # Same boundary, refracted direction from inside: equal reflectance (Stokes relations).
    for angle in np.linspace(0.05, 1.5, 20):
        inside = math.asin(math.sin(angle) / 1.5)
        assert fresnel.reflectance(math.cos(angle), 1.5) == approx(fresnel.reflectance(math.cos(inside), 1 / 1.5), rel=1e-9)


def test_hemispherical_means_of_the_tables():
    # n = 1.5: 9.18 % from outside, 59.6 % from inside (Judd's tables, quoted in paper optics; from memory).
    assert fresnel.hemispherical_reflectance(index=1.5) == approx(0.0918, abs=2e-4)
    assert fresnel.hemispherical_reflectance(index=1 / 1.5) == approx(0.5963, abs=5e-4)
    with pytest.raises(DomainError):
        fresnel.hemispherical_reflectance(index=math.nan)
