"""Where the camera stands and what it sees."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fotaxis.core.camera.lens import image_distance_m
from fotaxis.core.errors import DomainError
from fotaxis.core.limits import require_finite, require_positive
from fotaxis.core.values import FAR_M, Array, Point

MOST_SHIFT_M = 0.06
MOST_TILT_DEG = 15.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Camera:
    """A lens looked through at its middle; upright.

    shift_right_m, shift_up_m: how far the frame lies off the lens's axis on the sensor, counted to where more is seen; the way
    to `aim` stays the axis, square to the sensor.
    tilt_rad, swing_rad: the lens turned against the sensor, its top and its right side forward: the plane of focus then comes nearer
    below and on the left, see focus_plane.
    focus_m: distance of what is in focus along its axis; 0 for what it aims at, None for a picture that is sharp all over.

    The crop is the largest part of the sensor with the ratio crop_width : crop_height; a crop taller than wide
    turns the sensor upright.
    """

    place: Point
    aim: Point
    focal_length_m: float
    sensor_width_m: float
    sensor_height_m: float
    crop_width: float = 4.0
    crop_height: float = 5.0
    focus_m: float | None = None
    shift_right_m: float = 0.0
    shift_up_m: float = 0.0
    tilt_rad: float = 0.0
    swing_rad: float = 0.0

    def __post_init__(self) -> None:
        require_positive("focal length", self.focal_length_m, high=2.0, unit="m")
        require_positive("sensor width", self.sensor_width_m, high=0.5, unit="m")
        require_positive("sensor height", self.sensor_height_m, high=0.5, unit="m")
        require_positive("crop width", self.crop_width, high=100)
        require_positive("crop height", self.crop_height, high=100)
        if not 0.2 <= self.crop_ratio <= 5:
            raise DomainError(f"crop ratio is {self.crop_width:g}:{self.crop_height:g}; keep it between 1:5 and 5:1.")
        if self.aim_distance_m < 1e-3:
            raise DomainError("the camera stands where it aims; move it back.")
        for name, shift in (("shift to the side", self.shift_right_m), ("shift up", self.shift_up_m)):
            require_finite(name, shift, low=-MOST_SHIFT_M, high=MOST_SHIFT_M, unit="m")
        for name, angle in (("tilt of the lens", self.tilt_rad), ("swing of the lens", self.swing_rad)):
            require_finite(name, math.degrees(angle), low=-MOST_TILT_DEG, high=MOST_TILT_DEG, unit="degrees")
        flat = math.hypot(self.aim.x_m - self.place.x_m, self.aim.z_m - self.place.z_m)
        if flat < 1e-3:
            raise DomainError("the camera looks straight down; move the aim or the camera so that up is defined.")
        image_distance_m(focal_length_m=self.focal_length_m, subject_distance_m=self.aim_distance_m)
        if self.focus_m is not None:
            require_finite("focus distance", self.focus_m, low=0, high=FAR_M, unit="m")
            image_distance_m(focal_length_m=self.focal_length_m, subject_distance_m=self.focus_distance_m)

    @property
    def focus_distance_m(self) -> float:
        """Distance from the lens to the plane of focus, metres."""
        return self.focus_m or self.aim_distance_m

    @property
    def aim_distance_m(self) -> float:
        """Distance from the lens to the point it aims at, metres."""
        return float(np.linalg.norm(self.aim.array() - self.place.array()))

    @property
    def crop_ratio(self) -> float:
        """Width over height of the picture."""
        return self.crop_width / self.crop_height

    @property
    def used_sensor_m(self) -> tuple[float, float]:
        """Width and height of the part of the sensor that is used, as the picture stands."""
        w, h = self.sensor_width_m, self.sensor_height_m
        if (self.crop_ratio < 1) != (w < h):
            w, h = h, w
        return (w, w / self.crop_ratio) if w / h < self.crop_ratio else (h * self.crop_ratio, h)

    @property
    def image_m(self) -> float:
        """Distance from the lens to the sensor, square to it, metres: 1 / v = cos(turn) / f - 1 / d for a lens turned against it."""
        straight = math.sqrt(1 - math.sin(self.tilt_rad) ** 2 - math.sin(self.swing_rad) ** 2)
        return image_distance_m(focal_length_m=self.focal_length_m / straight, subject_distance_m=self.focus_distance_m)

    @property
    def half_field(self) -> tuple[float, float]:
        """Tangents of half the field of view across and up."""
        (w, h), v = self.used_sensor_m, self.image_m
        return w / 2 / v, h / 2 / v

    @property
    def middle(self) -> tuple[float, float]:
        """Tangents of the frame's middle from the lens's axis, to the right and up."""
        return self.shift_right_m / self.image_m, self.shift_up_m / self.image_m

    @property
    def focus_plane(self) -> tuple[float, float, float]:
        """One over the depth (along the axis, 1/m) of what is in focus in the frame's middle, and by how much that grows per
        tangent to the right and up from there.

            1 / z = 1 / d - tan_x sin(swing) / f - tan_y sin(tilt) / f        tangents from the axis

        a plane through the line f / sin(tilt) below the lens.   Source: thin lens, Scheimpflug; hinge rule, Merklinger 1992.
        """
        right, up = -math.sin(self.swing_rad) / self.focal_length_m, -math.sin(self.tilt_rad) / self.focal_length_m
        x, y = self.middle
        return 1 / self.focus_distance_m + x * right + y * up, right, up

    def basis(self) -> tuple[Array, Array, Array]:
        """Right, up and ahead, unit vectors (3,) float64."""
        return _basis(self.place, self.aim)

    def to_frame(self) -> tuple[Array, Array, Array]:
        """Right and up, and the way to the frame's middle that goes 1 m along the axis, (3,): a place of the frame with the tangents
        x, y from its middle lies the way middle + x right + y up."""
        right, up, ahead = self.basis()
        x, y = self.middle
        return right, up, ahead + x * right + y * up

    def from_frame(self) -> tuple[Array, Array, Array]:
        """Vectors (3,) on which a way from the lens shows how far it goes right and up from the ray of the frame's middle, and how
        far along the axis: divided, its tangents from the middle."""
        right, up, ahead = self.basis()
        x, y = self.middle
        return right - x * ahead, up - y * ahead, ahead

    def project(self, point: Array, *, width: int, height: int) -> tuple[float, float]:
        """Place of a point (3,) metres in a picture of width x height, pixels from the upper left corner.

        Holds for:  points in front of the lens. Else DomainError.
        """
        right, up, ahead = self.from_frame()
        d = point - self.place.array()
        depth = float(d @ ahead)
        if depth <= 0:
            raise DomainError("the point lies behind the camera.")
        half_w, half_h = self.half_field
        x = float(d @ right) / depth / half_w
        y = float(d @ up) / depth / half_h
        return (x + 1) / 2 * width, (1 - y) / 2 * height


@lru_cache(maxsize=64)
def _basis(place: Point, aim: Point) -> tuple[Array, Array, Array]:
    ahead = aim.array() - place.array()
    ahead /= np.linalg.norm(ahead)
    right = np.cross(ahead, np.array([0.0, 1.0, 0.0]))
    right /= np.linalg.norm(right)
    axes = right, np.cross(right, ahead), ahead
    for axis in axes:
        axis.setflags(write=False)
    return axes


PREVIEW_SIDE = 400
"""Pixels on the long side of a picture that follows the hand, and of whatever is read at that size."""


def picture_size(*, ratio: float, long_side: int) -> tuple[int, int]:
    """Width and height in pixels of a picture with the given width/height ratio and long side."""
    if ratio >= 1:
        return long_side, max(1, round(long_side / ratio))
    return max(1, round(long_side * ratio)), long_side
