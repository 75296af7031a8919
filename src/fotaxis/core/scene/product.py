"""What is photographed: its shape, what it is made of, where it stands."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fotaxis.core.errors import DomainError
from fotaxis.core.geometry.block import Hollow, hollow_of
from fotaxis.core.geometry.mesh import Mesh, is_closed
from fotaxis.core.geometry.profile import Profile
from fotaxis.core.geometry.vessel import Walls
from fotaxis.core.geometry.vessel import walls as walls_of
from fotaxis.core.keys import PRODUCT_KEY
from fotaxis.core.limits import require_finite, require_positive
from fotaxis.core.materials.artwork import FOIL, VARNISH, Artwork
from fotaxis.core.materials.bump import PRESSED
from fotaxis.core.materials.material import DEPTH, PERIOD, RELIEF, Medium, Skin
from fotaxis.core.scene.products.shape import Shape
from fotaxis.core.values import Array

FACES = {"right": 0, "left": 1, "top": 2, "bottom": 3, "front": 4, "back": 5}


@dataclass(frozen=True, slots=True, kw_only=True)
class Print:
    """A picture on a zone, from edge to edge of it. cut: only what the picture covers is there, else the zone's own material shows.

    foil, varnish: what is there where their masks say so; depth_m: how far the pressed part stands up (below 0: is sunk).
    """

    picture: Artwork
    cut: bool = False
    foil: Skin
    varnish: Skin
    depth_m: float = 0.0

    def __post_init__(self) -> None:
        require_finite("depth of what is pressed", self.depth_m, low=-0.005, high=0.005, unit="m")

    @property
    def presses(self) -> bool:
        """Is anything pressed up or down?"""
        return self.picture.pressed is not None and self.depth_m != 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Zone:
    """A zone of the product with a skin of its own: label, cap, collar, foil, varnish, tax band.

    Round things: between two heights above the foot, `width_rad` wide around an azimuth (0 faces the camera).
    Boxes: on `face`, from low to high above the box's foot (on top and bottom: from back to front, from the middle),
    `width_m` wide around `centre_m` to the right of the face's middle as the camera sees it.
    """

    low_m: float
    high_m: float
    azimuth_rad: float = 0.0
    width_rad: float = 2 * math.pi
    skin: Skin
    face: str = ""
    centre_m: float = 0.0
    width_m: float = 0.0
    ellipse: bool = False
    name: str = ""
    artwork: Print | None = None

    def __post_init__(self) -> None:
        require_finite("zone's lower edge", self.low_m, low=-3, high=3, unit="m")
        require_finite("zone's upper edge", self.high_m, low=-3, high=3, unit="m")
        if self.high_m <= self.low_m:
            raise DomainError(
                f"a zone runs from {self.low_m * 100:g} to {self.high_m * 100:g} cm; its upper edge must be above its lower."
            )
        require_finite("zone's azimuth", self.azimuth_rad, low=-2 * math.pi, high=2 * math.pi, unit="rad")
        require_positive("zone's width", self.width_rad, high=2 * math.pi + 1e-9, unit="rad")
        require_finite("zone's middle", self.centre_m, low=-3, high=3, unit="m")
        if self.face:
            if self.face not in FACES:
                raise DomainError(f"zone's face is {self.face!r}; it must be one of {', '.join(FACES)}.")
            require_positive("zone's width", self.width_m, high=3, unit="m")

    def skin_rows(self) -> dict[str, list[float]]:
        """Rows of its skins as kernels read them, its own under "", those of its artwork by their name."""
        rows = {"": self.skin.row()}
        if not self.artwork:
            return rows
        texels = self.artwork.picture.texels
        for name, skin, mask in (("foil", self.artwork.foil, FOIL), ("varnish", self.artwork.varnish, VARNISH)):
            if texels[..., mask].any():
                rows[name] = skin.row()
        if self.artwork.presses:
            for row in rows.values():
                row[RELIEF], row[PERIOD], row[DEPTH] = PRESSED, 1.0, self.artwork.depth_m
        return rows


@dataclass(frozen=True, slots=True, kw_only=True)
class Vessel:
    """Real glass: the outline is the outer wall. `floor_m`: where the inside begins, above the foot.

    liquid None: empty. level_m: the liquid's level above the foot; climbs: does it climb at the wall?
    inside: its inner wall as measured, heights above the foot and radii from the floor up, in place of wall_m and floor_m;
    round_lip: its lip is half a ring, not ground flat.
    """

    glass: Medium
    wall_m: float
    floor_m: float
    liquid: Medium | None = None
    level_m: float = 0.0
    climbs: bool = True
    inside: tuple[tuple[float, float], ...] = ()
    round_lip: bool = False

    def __post_init__(self) -> None:
        require_positive("glass wall", self.wall_m, high=0.05, unit="m")
        require_positive("glass base", self.floor_m, high=1, unit="m")
        require_finite("liquid's level", self.level_m, low=0, high=3, unit="m")


@dataclass(frozen=True, slots=True, kw_only=True)
class ModelPart:
    """A part of a model by its name, of a material of its own; None: of the product's."""

    name: str
    skin: Skin | None = None


@lru_cache(maxsize=64)
def _pieces(mesh: Mesh, skins: tuple[Skin | None, ...]) -> tuple[tuple[Mesh, Skin | None], ...]:
    bare = mesh.parts([i for i, skin in enumerate(skins) if skin is None])
    found = [(bare, None)] if bare else []
    return (*found, *((piece, skin) for i, skin in enumerate(skins) if skin and (piece := mesh.parts([i]))))


@dataclass(frozen=True, slots=True, kw_only=True)
class Product:
    """A product with its body skin and zones on it; later zones lie over earlier ones.

    parts: of a model, in the order of its mesh's.
    vessel: its body is real glass instead of a skin (turned shapes and boxes). It stands `x_m` right of and `z_m` in front of
    the set's axis, turned by `turn_rad` (positive: its front to the right as the camera sees it); `lying`: on its side, its
    foot towards the camera.
    """

    name: str
    shape: Shape
    body: Skin
    bands: tuple[Zone, ...] = ()
    vessel: Vessel | None = None
    key: str = PRODUCT_KEY
    x_m: float = 0.0
    z_m: float = 0.0
    turn_rad: float = 0.0
    lying: bool = False
    on_riser: bool = False
    parts: tuple[ModelPart, ...] = ()

    def __post_init__(self) -> None:
        require_finite(f"place of {self.name}", self.x_m, low=-5, high=5, unit="m")
        require_finite(f"place of {self.name}", self.z_m, low=-5, high=5, unit="m")
        require_finite(f"turn of {self.name}", self.turn_rad, low=-4 * math.pi, high=4 * math.pi, unit="rad")
        faced = [band for band in self.bands if band.face]
        if faced and not (self.shape.faced or self.shape.sided):
            raise DomainError(f"{self.name}: a zone names the face {faced[0].face!r}; only a box or a model has faces.")
        if self.shape.faced and len(faced) < len(self.bands):
            raise DomainError(f"{self.name}: on a box every zone names its face.")
        if self.parts and self.shape.mesh is None:
            raise DomainError(f"{self.name}: only a model has parts of other materials.")
        if self.vessel:
            self._check_glass(self.vessel)

    def pieces(self) -> tuple[tuple[Mesh, Skin | None], ...]:
        """Of a mesh what is of the product's own material, where anything is, and every part of another, with that."""
        assert self.shape.mesh is not None
        if not self.parts:
            return ((self.shape.mesh, None),)
        return _pieces(self.shape.mesh, tuple(part.skin for part in self.parts))

    @property
    def bodies(self) -> int:
        """How many bodies it is to the tracer."""
        opaque = len(self.pieces()) if self.shape.mesh is not None else 1
        if not self.vessel:
            return opaque
        return self.clear_bodies() + (opaque - 1 if self.shape.mesh is not None else 0)

    def _check_glass(self, vessel: Vessel) -> None:
        """Raises DomainError where this shape cannot be this glass."""
        if self.shape.solid and self.shape.mesh is not None:
            if vessel.liquid:
                raise DomainError(f"{self.name}: a model of glass is solid; it holds no liquid.")
            glass, skin = self.pieces()[0]
            if skin:
                raise DomainError(
                    f"{self.name}: every part has a material of its own; leave one of the product's to be glass."
                )
            if not is_closed(glass):
                raise DomainError(
                    f"{self.name}: its mesh is open somewhere; close it in the modelling program to make it glass."
                )
        elif not self.shape.holds_liquid:
            raise DomainError(f"{self.name}: only a turned shape, a box or a closed model can be real glass.")
        self.clear_bodies()

    def clear_bodies(self) -> int:
        """Of so many surfaces a vessel is made: outside and inside, and with liquid the wet inside and its top."""
        if self.shape.solid:
            return 1
        within: Walls | Hollow = self.walls() if self.shape.turned is not None else self.hollow()
        return 4 if within.level is not None and within.wet is not None else 2

    def hollow(self) -> Hollow:
        """The inside of a block of glass. Raises DomainError where there is no room for one."""
        assert self.vessel is not None
        v, (half_width, half_height, half_depth) = self.vessel, self.shape.half_sizes_m
        return hollow_of(
            width_m=2 * half_width, height_m=2 * half_height, depth_m=2 * half_depth, wall_m=v.wall_m, floor_m=v.floor_m,
            level_m=v.level_m if v.liquid else 0.0,
        )  # fmt: skip

    def walls(self) -> Walls:
        """The surfaces of a turned vessel. Raises DomainError where wall, floor and level contradict each other."""
        assert self.vessel is not None
        v = self.vessel
        return walls_of(
            self.shape.profile, wall_m=v.wall_m, floor_m=v.floor_m, level_m=v.level_m if v.liquid else 0.0, inside=v.inside,
            round_lip=v.round_lip, climbs=v.climbs,
        )  # fmt: skip

    @property
    def profile(self) -> Profile:
        """See Shape.profile."""
        return self.shape.profile

    @property
    def height_m(self) -> float:
        """From foot to top as it stands or lies."""
        profile = self.profile
        return 2 * profile.widest_m if self.lying else profile.top_m - profile.foot_m

    @property
    def reach_m(self) -> float:
        """Greatest distance from its own axis, seen from above."""
        profile = self.profile
        return max(profile.widest_m, profile.top_m - profile.foot_m) if self.lying else profile.widest_m


def stands(product: Product, lift_m: float) -> tuple[Array, Array]:
    """Origin (3,) metres and axes (3, 3) (rows: its own x, y, z in the world) of a subject on a ground at `lift_m`."""
    turn = product.turn_rad
    across, front = np.array([math.cos(turn), 0, -math.sin(turn)]), np.array([math.sin(turn), 0, math.cos(turn)])
    up = np.array([0.0, 1.0, 0.0])
    profile = product.profile
    if product.lying:
        # Its axis lies along -front, foot towards the front; its own front looks up.
        axes = np.stack([across, -front, up])
        middle = (profile.top_m + profile.foot_m) / 2
        origin = np.array([product.x_m, lift_m + profile.widest_m, product.z_m]) + front * middle
        return origin, axes
    return np.array([product.x_m, lift_m - profile.foot_m, product.z_m]), np.stack([across, up, front])


def described(product: Product) -> str:
    """Name, size, fill and turn of a product in words."""
    words = f"{product.name}, {product.height_m * 100:.1f} cm high, Ø {product.profile.widest_m * 200:.1f} cm"
    if product.vessel:
        words += f", glass, wall {product.vessel.wall_m * 1000:g} mm"
        words += f", filled to {product.vessel.level_m * 100:g} cm" if product.vessel.liquid else ", empty"
    if product.turn_rad:
        words += f", turned {math.degrees(product.turn_rad):.0f}°"
    return words + (", lying" if product.lying else "")
