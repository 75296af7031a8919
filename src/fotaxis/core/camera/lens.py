"""Thin-lens figures: field, magnification, depth of field, diffraction."""

from __future__ import annotations

import math

from fotaxis.core.errors import DomainError


def image_distance_m(*, focal_length_m: float, subject_distance_m: float) -> float:
    """Distance lens to sensor for a subject in focus: v = f d / (d - f).

    Holds for:  0 < f < d. Else DomainError.  Source: thin-lens formula.
    """
    if not 0 < focal_length_m < subject_distance_m:
        raise DomainError(
            f"a {focal_length_m * 1000:g} mm lens cannot focus at {subject_distance_m * 100:g} cm: "
            "move the camera back beyond its focal length."
        )
    return focal_length_m * subject_distance_m / (subject_distance_m - focal_length_m)


def magnification(*, focal_length_m: float, subject_distance_m: float) -> float:
    """Image size over subject size, f / (d - f). Holds as image_distance_m does."""
    return image_distance_m(focal_length_m=focal_length_m, subject_distance_m=subject_distance_m) / subject_distance_m


def hyperfocal_m(*, focal_length_m: float, f_number: float, circle_m: float) -> float:
    """Hyperfocal distance f^2 / (N c) + f, metres.

    Holds for:  all positive. Else DomainError.  Source: thin-lens geometry.
    """
    if not (focal_length_m > 0 and f_number > 0 and circle_m > 0):
        raise DomainError("hyperfocal distance: focal length, f-number and circle of confusion must be more than 0.")
    return focal_length_m**2 / (f_number * circle_m) + focal_length_m


def depth_of_field_m(
    *, focal_length_m: float, f_number: float, circle_m: float, subject_distance_m: float
) -> tuple[float, float]:
    """Near and far limit of acceptable sharpness, metres from the lens; far may be infinite.

        near = d (H - f) / (H + d - 2 f),  far = d (H - f) / (H - d)
    Holds for:  0 < f < d. Else DomainError.  Source: thin-lens geometry.
    """
    image_distance_m(focal_length_m=focal_length_m, subject_distance_m=subject_distance_m)
    h = hyperfocal_m(focal_length_m=focal_length_m, f_number=f_number, circle_m=circle_m)
    d, f = subject_distance_m, focal_length_m
    near = d * (h - f) / (h + d - 2 * f)
    far = d * (h - f) / (h - d) if d < h else math.inf
    return near, far


def airy_diameter_m(*, f_number: float, wavelength_m: float = 550e-9) -> float:
    """Diameter of the diffraction spot to its first dark ring, 2 * 1.22 lambda N.  Source: Airy."""
    if not f_number > 0:
        raise DomainError(f"f-number is {f_number:g}; it must be more than 0.")
    return 2 * 1.22 * wavelength_m * f_number
