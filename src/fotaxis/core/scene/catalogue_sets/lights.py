"""A small set that shows one head, sheet, net, card or gel: its light on a wall, its mirror image in a dark bottle."""

from __future__ import annotations

from fotaxis.core.camera.camera import Camera
from fotaxis.core.camera.exposure import Exposure
from fotaxis.core.errors import DomainError
from fotaxis.core.geometry.profile import Profile
from fotaxis.core.lights.calibration import Candela
from fotaxis.core.lights.card_finishes import FINISH
from fotaxis.core.lights.fixtures import Card, Emission, Lamp, Light
from fotaxis.core.lights.gels import GEL
from fotaxis.core.lights.heads import HEAD
from fotaxis.core.materials.material import Skin
from fotaxis.core.scene.catalogue_sets.light_entries import BEFORE, SHAPE, card, stance
from fotaxis.core.scene.plan import Background, Plan
from fotaxis.core.scene.product import Product
from fotaxis.core.scene.products.turned import Turned
from fotaxis.core.values import Point, Reflectance

BOTTLE = Profile(
    heights_m=(0.0, 0.003, 0.05, 0.10, 0.125, 0.145, 0.16, 0.185, 0.19),
    radii_m=(0.030, 0.033, 0.034, 0.034, 0.030, 0.018, 0.012, 0.011, 0.012),
)  # fmt: skip
GLOSS = Skin(reflectance=Reflectance.grey(0.0), coat_index=1.5)
WALL = Background(
    distance_m=0.4, width_m=3, height_m=3, centre_height_m=0.1, skin=Skin(reflectance=Reflectance.grey(0.6))
)  # fmt: skip


def _lamp(head: str, x: float, y: float, z: float, turn: float, tilt: float = 0.0, gels: tuple[str, ...] = ()) -> Lamp:
    kind = HEAD[head]
    emission = Emission(
        calibration=Candela(value=1000), power_stops=0, continuous=kind.continuous, colour_k=kind.colour_k,
        gels=tuple(GEL[name] for name in gels),
    )  # fmt: skip
    return Lamp(
        key="light", name=head, stance=stance(x, y, z, turn, tilt), head=kind, diameter_m=kind.diameter_m, emission=emission
    )


def light_plan(kind: str, name: str) -> Plan:
    """The set for a head, a finish (sheet, net, card), a gel, or a shape (lightshapes).

    Raises DomainError for a name that is not in the catalogue.
    """
    known: dict[str, list[str]] = {"head": [*HEAD], "finish": [*FINISH], "gel": [*GEL], "shape": [*SHAPE]}
    if name not in known.get(kind, []):
        raise DomainError(f"there is no {kind[:10]!r} called {name[:40]!r}.")
    if kind == "head":
        return _plan((_lamp(name, *BEFORE),))
    if kind == "shape":
        return _plan(SHAPE[name].lights, SHAPE[name].cards)
    if kind == "gel":
        return _plan((_lamp("dish 65°", *BEFORE, gels=(name,)),))
    group = FINISH[name].group
    if group == "sheet":
        return _plan((_lamp("dish 65°", -0.62, 0.12, 0.12, 96),), (card(name, -0.3, 0.1, 0.05, 96, 0.36, 0.5),))
    if group == "net":
        return _plan((_lamp("dish 65°", *BEFORE),), (card(name, 0.15, 0.15, -0.05, -159, 0.24, 0.7),))
    return _plan((_lamp("dish 65°", -0.75, 0.12, 0.12, 84),), (card(name, 0.3, 0.1, 0.1, -112, 0.3, 0.4),))


def _plan(lights: tuple[Light, ...], cards: tuple[Card, ...] = ()) -> Plan:
    camera = Camera(
        place=Point(x_m=0.1, y_m=0.12, z_m=1.1), aim=Point(x_m=0.06, y_m=0.1, z_m=0), focal_length_m=0.075, sensor_width_m=0.036,
        sensor_height_m=0.024, crop_width=1, crop_height=1,
    )  # fmt: skip
    product = Product(name="Bottle", shape=Turned(profile=BOTTLE), body=GLOSS)
    return Plan(
        product=product, table=None, riser=None, background=WALL, camera=camera,
        exposure=Exposure(iso=100, shutter_s=2.0**-7, f_number=8.0), lights=lights, cards=cards,
    )  # fmt: skip
