"""What every shape of a product tells the rest: its surface, the cylinder around it, how it is drawn; and its kind."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from typing import TYPE_CHECKING, Any, ClassVar

import numpy as np

from fotaxis.core.geometry.mesh import Mesh
from fotaxis.core.geometry.profile import Outline, Profile
from fotaxis.core.measures import AnyMeasure
from fotaxis.core.values import Array


class Shape:
    """A shape standing on the ground with its axis upright; a frozen dataclass that is hashable.

    One that is a solid of revolution gives `turned`, any other that is `seen` a `mesh`. faced: its zones name one of its flat faces;
    sided: they may, the face being what looks that way; holds_liquid: it may be real glass;
    solid: it may be too, but without a hollow, where its mesh is closed.
    """

    __slots__ = ()
    faced: ClassVar[bool] = False
    sided: ClassVar[bool] = False
    holds_liquid: ClassVar[bool] = False
    solid: ClassVar[bool] = False

    if TYPE_CHECKING:  # a field of some shapes, so no default stands here

        @property
        def profile(self) -> Profile:
            """Its outline where it is turned, else that of the upright cylinder around it."""
            raise NotImplementedError

    @property
    def seen(self) -> bool:
        """Is there anything of it at all?"""
        return True

    @property
    def turned(self) -> Outline | None:
        """Its surface where it is a solid of revolution."""
        return None

    @property
    def mesh(self) -> Mesh | None:
        """Its surface where it is none."""
        return None

    @property
    def half_sizes_m(self) -> tuple[float, float, float]:
        """Half width, height and depth where it is a box, else 0."""
        return 0.0, 0.0, 0.0

    @property
    def base_radius_m(self) -> float:
        """About how far it covers the table around its axis: of what is not round 0.7 of its reach, common practice."""
        return self.profile.radii_m[0] if self.turned is not None else 0.7 * self.profile.widest_m

    @property
    def from_above(self) -> Array | None:
        """Corners of its outline on the floor, (n, 2) metres right and front of its axis; None where that is a circle."""
        return None

    @property
    def side_is_a_box(self) -> bool:
        """Is it drawn from the side as a rectangle as wide as its outline on the floor?"""
        return False


@dataclass(frozen=True, slots=True, kw_only=True)
class ShapeKind:
    """A shape as shot files and pages know it: its word in the file, words on the page, measures, and how it is made of them.

    about: one sentence for the schema; shape: the class its values make; begins: a new one of it, as in a shot file,
    {} where it needs a file; beside: what one
    put beside the main product is called and its skin's material, None where there is none.
    """

    key: str
    words: str
    about: str
    shape: type[Shape]
    measures: tuple[AnyMeasure, ...] = ()
    make: Callable[[Mapping[str, Any]], Shape] | None = None
    begins: Mapping[str, Any] = field(default_factory=dict)
    beside: tuple[str, str, str] | None = None


@lru_cache(maxsize=128)
def around_mesh(mesh: Mesh) -> Profile:
    """The outline of the upright cylinder around a mesh."""
    v = mesh.vertices
    radius = float(np.hypot(v[:, 0], v[:, 2]).max())
    return Profile(heights_m=(0.0, float(v[:, 1].max())), radii_m=(radius, radius))
