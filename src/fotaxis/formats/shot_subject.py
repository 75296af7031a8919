"""Products in the shot file: shapes, glass and liquid, skins and zones."""

from __future__ import annotations

import math
from dataclasses import replace
from functools import lru_cache
from typing import TYPE_CHECKING, Annotated, Any, Literal, Union

from pydantic import Field

from fotaxis.core.errors import DomainError
from fotaxis.core.geometry.mesh import MAX_TRIANGLES
from fotaxis.core.geometry.profile import Profile, with_round_foot
from fotaxis.core.keys import PRODUCT_KEY
from fotaxis.core.materials.catalogue import GLASS, LIQUID, SKIN
from fotaxis.core.materials.material import Medium, Metal, Relief, Skin
from fotaxis.core.scene.product import ModelPart as CorePart
from fotaxis.core.scene.product import Print, Product, Vessel, Zone
from fotaxis.core.scene.products import SHAPES
from fotaxis.core.scene.products.model import Modelled
from fotaxis.core.scene.products.shape import Shape, ShapeKind
from fotaxis.core.scene.products.turned import Turned
from fotaxis.core.values import Reflectance
from fotaxis.formats import artwork_text, mesh_text
from fotaxis.formats.mesh_reader import MOST_PARTS
from fotaxis.formats.shot_parts import CUSTOM, Key, Name, Number, Part, Positive, Share, Triple, named, part_of

Material = Annotated[str, *named(SKIN, "material", custom=True)]
Glass = Annotated[str, *named(GLASS, "glass", custom=True)]
Liquid = Annotated[str, *named(LIQUID, "liquid", custom=True)]


class ReliefPart(Part):
    """A fine relief: its kind, distance from ridge to ridge (emboss: width of the rim), depth (emboss: below 0 is sunk)."""

    kind: Literal["none", "linen", "laid", "grain", "ripple", "crinkle", "emboss"]
    period_mm: Positive = 1.0
    depth_mm: Number = 0.1

    def value(self) -> Relief | None:
        if self.kind == "none":
            return None
        return Relief(kind=self.kind, period_m=self.period_mm / 1000, depth_m=self.depth_mm / 1000)


class MetalPart(Part):
    """Complex refractive index n + ik at red, green and blue, and a tint."""

    n: Triple
    k: Triple
    tint: Triple = [1.0, 1.0, 1.0]

    def value(self) -> Metal:
        return Metal(n=tuple(self.n), k=tuple(self.k), tint=tuple(self.tint))  # type: ignore[arg-type]


class SkinPart(Part):
    """A material by name, and what differs from it here.

    reflectance: linear Rec. 709, 0..1, below the gloss (of a metal: its tint); coat_index 0: no gloss; roughness 0 mirrors
    sharply, 1 hardly; brush: scratches run 'around' or 'along'; through: share of light let through.
    """

    material: Material = CUSTOM
    reflectance: Triple | None = None
    coat_index: Number | None = None
    roughness: Share | None = None
    brush: Literal["none", "around", "along"] | None = None
    relief: ReliefPart | None = None
    through: Share | None = None
    metal: MetalPart | None = None

    def value(self) -> Skin:
        given: dict[str, Any] = {
            name: value
            for name in ("coat_index", "roughness", "brush", "through")
            if (value := getattr(self, name)) is not None
        }
        base = SKIN[self.material].skin if self.material in SKIN else Skin(reflectance=Reflectance.grey(0.5))
        if self.metal:
            base = replace(base, metal=self.metal.value())
        if self.reflectance is not None:
            red, green, blue = self.reflectance
            if base.metal:
                given["metal"] = replace(base.metal, tint=(red, green, blue))
            else:
                given["reflectance"] = Reflectance(red=red, green=green, blue=blue)
        if self.relief:
            given["relief"] = self.relief.value()
        return replace(base, **given)


class ProfilePoint(Part):
    """One measurement: height above the foot and diameter there, centimetres."""

    height_cm: Number
    diameter_cm: Number


class ArtworkPart(Part):
    """A picture from edge to edge of a zone: PNG as base64, and masks, white where they hold.

    cut: only what the picture covers is there (print on the product itself), else the zone's material shows beside it.
    emboss_mm: how far the emboss mask stands up, below 0 is sunk.
    """

    picture: Annotated[str, Field(min_length=1, max_length=artwork_text.MAX_TEXT)]
    cut: bool = False
    foil: Annotated[str, Field(max_length=artwork_text.MAX_MASK_TEXT)] = ""
    foil_material: Material = "gold foil"
    varnish: Annotated[str, Field(max_length=artwork_text.MAX_MASK_TEXT)] = ""
    emboss: Annotated[str, Field(max_length=artwork_text.MAX_MASK_TEXT)] = ""
    emboss_mm: Annotated[float, Field(ge=-5, le=5, allow_inf_nan=False)] = 0.2

    def value(self, skin: Skin) -> Print:
        foil = SKIN[self.foil_material].skin if self.foil_material in SKIN else SKIN["gold foil"].skin
        varnish = replace(skin, metal=None, coat_index=1.5, roughness=0.0, relief=None)
        return Print(
            picture=artwork_text.artwork(self.picture, self.foil, self.varnish, self.emboss), cut=self.cut, foil=foil,
            varnish=varnish, depth_m=self.emboss_mm / 1000,
        )  # fmt: skip


class BandPart(Part):
    """A zone with a material of its own, between two heights above the foot.

    On round things `width_deg` around `azimuth_deg` (0 faces the camera). On boxes on a `face`, `width_cm` wide around
    `centre_cm` right of its middle; on top and bottom heights count from the middle, towards the camera.
    """

    name: Name
    low_cm: Number
    high_cm: Number
    azimuth_deg: Number = 0.0
    width_deg: Positive = 360.0
    face: Literal["", "front", "back", "left", "right", "top", "bottom"] = ""
    centre_cm: Number = 0.0
    width_cm: Annotated[float, Field(ge=0, allow_inf_nan=False)] = 0.0
    ellipse: bool = False
    skin: SkinPart
    artwork: ArtworkPart | None = None

    def value(self) -> Zone:
        skin = self.skin.value()
        return Zone(
            name=self.name, low_m=self.low_cm / 100, high_m=self.high_cm / 100, azimuth_rad=math.radians(self.azimuth_deg),
            width_rad=math.radians(self.width_deg), face=self.face, centre_m=self.centre_cm / 100,
            width_m=self.width_cm / 100, ellipse=self.ellipse, skin=skin, artwork=self.artwork.value(skin) if self.artwork else None,
        )  # fmt: skip


class ClearPart(Part):
    """A clear medium: by name, or its index and what is left of red, green and blue after a centimetre."""

    index: Number | None = None
    left_per_cm: Triple | None = None

    def medium(self, named: Medium | None) -> Medium:
        base = named or Medium(index=1.52)
        left = tuple(self.left_per_cm) if self.left_per_cm is not None else base.left_per_cm
        return Medium(index=base.index if self.index is None else self.index, left_per_cm=left)  # type: ignore[arg-type]


class GlassPart(ClearPart):
    """Real glass: the outline is its outer wall. floor_cm: where the inside begins above the foot (base, or stem).

    inside: the inner wall as measured, from its floor up to the lip, in place of wall_mm and floor_cm; round_lip: half a ring
    instead of ground flat.
    """

    glass: Glass = "clear glass"
    wall_mm: Positive = 2.5
    floor_cm: Positive = 0.6
    inside: Annotated[list[ProfilePoint], Field(max_length=200)] = []
    round_lip: bool = False

    def value(self) -> Vessel:
        named = GLASS[self.glass].medium if self.glass in GLASS else None
        return Vessel(
            glass=self.medium(named), wall_m=self.wall_mm / 1000, floor_m=self.floor_cm / 100, round_lip=self.round_lip,
            inside=tuple((point.height_cm / 100, point.diameter_cm / 200) for point in self.inside),
        )  # fmt: skip


class LiquidPart(ClearPart):
    """What is in it, to a level above the foot; water_share of its volume is water added; meniscus: it climbs at the wall."""

    liquid: Liquid = "water"
    level_cm: Annotated[float, Field(ge=0, allow_inf_nan=False)]
    water_share: Share = 0.0
    meniscus: bool = True

    def value(self) -> Medium:
        named = LIQUID[self.liquid].medium if self.liquid in LIQUID else None
        return self.medium(named).diluted(self.water_share)


@lru_cache(maxsize=64)
def _profile(heights_m: tuple[float, ...], radii_m: tuple[float, ...]) -> Profile:
    """A checked outline; its check grows with the square of its points, and a drag asks for it with every picture."""
    return Profile(heights_m=heights_m, radii_m=radii_m)


class SubjectPart(Part):
    """What every product has. key, place and on_riser count for things beside the main product, which stands on the axis."""

    name: Name
    key: Key = PRODUCT_KEY
    body: SkinPart
    bands: Annotated[list[BandPart], Field(max_length=12)] = []
    x_cm: Number = 0.0
    z_cm: Number = 0.0
    turn_deg: Number = 0.0
    lying: bool = False
    on_riser: bool = False

    def shape(self) -> Shape:
        raise NotImplementedError

    def vessel(self) -> Vessel | None:
        return None

    def pieces(self) -> tuple[CorePart, ...]:
        return ()

    def value(self, *, main: bool = False) -> Product:
        return Product(
            name=self.name, shape=self.shape(), body=self.body.value(), bands=tuple(b.value() for b in self.bands),
            vessel=self.vessel(), key=PRODUCT_KEY if main else self.key, x_m=0.0 if main else self.x_cm / 100,
            z_m=0.0 if main else self.z_cm / 100, turn_rad=math.radians(self.turn_deg), lying=self.lying,
            on_riser=self.on_riser, parts=self.pieces(),
        )  # fmt: skip


class TurnedPart(SubjectPart):
    """A turned product by its outline from the foot up; with `glass` it is real glass, with `liquid` filled.

    foot_radius_mm: how far its foot's edge is rounded, 0: as the outline has it.
    """

    kind: Literal["turned"] = "turned"
    profile: Annotated[list[ProfilePoint], Field(min_length=2, max_length=400)]
    foot_radius_mm: Annotated[float, Field(ge=0, allow_inf_nan=False)] = 0.0
    glass: GlassPart | None = None
    liquid: LiquidPart | None = None

    def shape(self) -> Shape:
        heights = tuple(p.height_cm / 100 for p in self.profile)
        profile = _profile(heights, tuple(p.diameter_cm / 200 for p in self.profile))
        return Turned(profile=with_round_foot(profile, self.foot_radius_mm / 1000) if self.foot_radius_mm else profile)

    def vessel(self) -> Vessel | None:
        return _vessel(self.name, self.glass, self.liquid)


def _vessel(name: str, glass: GlassPart | None, liquid: LiquidPart | None) -> Vessel | None:
    """Real glass as core values; None without. Raises DomainError for a liquid that nothing holds."""
    if not glass:
        if liquid:
            raise DomainError(f"{name}: there is liquid but no glass to hold it; choose a glass.")
        return None
    vessel = glass.value()
    if not liquid:
        return vessel
    return replace(vessel, liquid=liquid.value(), level_m=liquid.level_cm / 100, climbs=liquid.meniscus)


class MeshPart(Part):
    """A part of a mesh: so many of its triangles, after those of the part before, and its material, null: the body's."""

    name: Name
    triangles: Annotated[int, Field(ge=1, le=MAX_TRIANGLES)]
    skin: SkinPart | None = None


class ModelPart(SubjectPart):
    """An imported mesh (see docs/shot-file.md for its text) and how many metres its unit is; glass: what has no material of its own is
    solid glass throughout, its wall and floor do not count."""

    kind: Literal["model"]
    mesh: Annotated[str, Field(max_length=mesh_text.MAX_TEXT)]
    unit_m: Positive = 0.01
    glass: GlassPart | None = None
    parts: Annotated[list[MeshPart], Field(max_length=MOST_PARTS)] = []

    def vessel(self) -> Vessel | None:
        return _vessel(self.name, self.glass, None)

    def shape(self) -> Shape:
        return Modelled(imported=mesh_text.decode(self.mesh, self.unit_m, tuple(part.triangles for part in self.parts)))

    def pieces(self) -> tuple[CorePart, ...]:
        return tuple(CorePart(name=part.name, skin=part.skin.value() if part.skin else None) for part in self.parts)


OWN_PARTS: dict[str, type[SubjectPart]] = {"turned": TurnedPart, "model": ModelPart}
"""Shapes that hold more than plain measures."""


class MeasuredPart(SubjectPart):
    """A product whose shape is told by measures alone."""

    kind: str

    def shape(self) -> Shape:
        make = SHAPES[self.kind].make
        assert make is not None, "told by measures alone"
        shape: Shape = make(self.model_dump())
        return shape


class MeasuredVesselPart(MeasuredPart):
    """As MeasuredPart, of a shape that may be real glass and hold a liquid."""

    glass: GlassPart | None = None
    liquid: LiquidPart | None = None

    def vessel(self) -> Vessel | None:
        return _vessel(self.name, self.glass, self.liquid)


def _part_of(kind: ShapeKind) -> type[SubjectPart]:
    """How a shape stands in a shot file."""
    base = MeasuredVesselPart if kind.shape.holds_liquid else MeasuredPart
    return OWN_PARTS.get(kind.key) or part_of(kind.key, kind.about, kind.measures, base)


if TYPE_CHECKING:
    AnySubject = SubjectPart
else:
    AnySubject = Annotated[Union[*map(_part_of, SHAPES.values())], Field(discriminator="kind")]
