"""Ways to light a label well and evenly: a head whose image misses the lens, a small bounce."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from fotaxis.core.errors import NoSolution
from fotaxis.core.frames.readings.area import Area
from fotaxis.core.frames.readings.evenness import Patch
from fotaxis.core.frames.readings.reading import rows_between
from fotaxis.core.frames.readings.spot import ProductSpot
from fotaxis.core.geometry import orientation
from fotaxis.core.lights.fixtures import Lamp, Light
from fotaxis.core.proposals.label_light import EVEN_COST, UNEVEN_COST, LabelLight, ZonePlaces, label_lights
from fotaxis.core.proposals.survey import looked_over, some_of
from fotaxis.core.proposals.ways import product_edges, surface_at
from fotaxis.core.stops import measured_stops
from fotaxis.core.values import Array, Point
from fotaxis.core.wishes.even import Even
from fotaxis.services.aims import aimed
from fotaxis.services.changes import Change, fresh_key
from fotaxis.services.lighting_setups.setup import LABEL_STOPS
from fotaxis.services.presets import new_thing
from fotaxis.services.proposals.proposal import Asked, Proposal, added_light, place_words, set_all, turned, where

ACROSS = 5
LEAST_MATTE = 0.5
MIRRORED_COST, RANK_OF_UNEVEN = 60.0, 12.0
BOUNCE_CM, BOUNCE_AWAY_M = (20.0, 15.0), 0.3
BOUNCE_TRIED_M = tuple(round(0.15 + 0.05 * n, 2) for n in range(30))
SEEN = 0.004
"""An image smaller than this part of the product is a sparkle, not a patch."""


def label_proposals(asked: Asked) -> list[Proposal]:
    """The best places for a head, the best first, and a bounce. Raises NoSolution where nothing matte is seen there."""
    zone = zone_places(asked)
    stage = asked.stage_of(asked.plan)
    whole = looked_over(asked.plan, stage.scene, stage.is_product)
    light = asked.main_light
    own = light if isinstance(light, Lamp) else None
    head = own or next((one for one in asked.plan.lights if isinstance(one, Lamp)), None)
    thing = new_thing("grid head")
    key = fresh_key(asked.document, "label")
    if head is None:
        made = asked.plan_with([Change(kind="add", path=("lights",), value={**thing, "key": key})])
        head = next(one for one in made.lights if one.key == key and isinstance(one, Lamp))
    cost = EVEN_COST if isinstance(asked.wish.wish, Even) or _even_too(asked) else UNEVEN_COST
    found, middle = [], zone.places.mean(axis=0)
    for stands in label_lights(asked.plan, zone, some_of(whole, slice(None, None, 2)), head, uneven_cost=cost):
        place = where(stands.stance.place)
        at = {"place": place, **turned(stands.stance)}
        if own is not None:
            changes, title = set_all("lights", own.key, at), f"{own.name}, {_from(stands, middle)}"
        else:
            changes = [Change(kind="add", path=("lights",), value={**thing, **at, "key": key})]
            title = f"A grid head, {_from(stands, middle)}"
        found.append(
            Proposal(
                title=title, reasons=_reasons(stands, middle), changes=tuple(changes),
                rank=100 - MIRRORED_COST * stands.mirrored * 10 - RANK_OF_UNEVEN * stands.uneven_stops,
                measures={**place, **turned(stands.stance)}, shines=added_light(changes, LABEL_STOPS),
            )
        )  # fmt: skip
    found += _bounce(asked, zone)
    if not found:
        raise NoSolution(
            "no place for a head lights this from outside the frame; turn the product, or take the light through a card."
        )
    return sorted(found, key=lambda one: -one.rank)


def _even_too(asked: Asked) -> bool:
    """Is it wished, too, that what the wish reads is even?"""
    key = getattr(asked.wish.wish, "reading", "")
    return any(isinstance(one.wish, Even) and one.wish.reading == key for one in asked.codec.wishes(asked.document))


def zone_places(asked: Asked) -> ZonePlaces:
    """Places all over what a wish reads on a matte zone. Raises NoSolution where it is none."""
    reading = asked.reading
    at = reading.at if reading else None
    stage = asked.stage
    height, width = stage.is_product.shape
    if isinstance(at, ProductSpot):
        span = max(0.0, at.height - 0.05), min(1.0, at.height + 0.05)
        begin, end = max(-1.0, at.across - 0.2), min(1.0, at.across + 0.2)
    elif isinstance(at, Patch):
        span, begin, end = (at.low, at.high), -at.part, at.part
    elif isinstance(at, Area):
        span, begin, end = (at.low, at.high), at.begin, at.end
    else:
        raise NoSolution("this reading lies on no zone of the product.")
    rows = np.array([(row + 0.5, first, last) for row, first, last in rows_between(stage.is_product, *span)])[::4]
    if len(rows) < 2:
        raise NoSolution("it is hardly seen in this frame; bring it into the frame.")
    edges = product_edges(asked.plan, stage.scene, rows, width, height)
    part = (np.linspace(begin, end, ACROSS) + 1) / 2
    x = edges[:, :1] + part * np.diff(edges, axis=1)
    on = surface_at(asked.plan, stage.scene, x, np.broadcast_to(rows[:, :1], x.shape), width, height)
    matte = on.there & on.of_product & ~on.mirrors
    if matte.mean() < LEAST_MATTE:
        raise NoSolution("what is read there mirrors: ask for a highlight over it, or for where a line lies.")
    row, column = np.nonzero(matte)
    return ZonePlaces(places=on.places[matte], normals=on.normals[matte], row=row, column=column)


def _from(stands: LabelLight, middle: Array) -> str:
    """From where a head lights a zone, in few words: '45° above, left'."""
    way = stands.stance.place.array() - middle
    up = math.degrees(math.asin(way[1] / float(np.linalg.norm(way))))
    side = "front" if abs(way[0]) < SIDEWAYS_M else "left" if way[0] < 0 else "right"
    return f"{abs(up):.0f}° {'above' if up >= 0 else 'below'}, {side}"


SIDEWAYS_M = 0.1


def _reasons(stands: LabelLight, middle: Array) -> tuple[str, ...]:
    way = stands.stance.place.array() - middle
    away = float(np.linalg.norm(way))
    up = math.degrees(math.asin(way[1] / away))
    steep = math.degrees(math.asin(min(1.0, stands.straight)))
    seen = (
        "No image of it reaches the lens"
        if stands.mirrored < SEEN else f"Its image shows on {100 * stands.mirrored:.1f} % of the product"
    )  # fmt: skip
    return (
        f"{100 * away:.0f} cm away, {abs(up):.0f}° {'above' if up >= 0 else 'below'}; {place_words(stands.stance.place)}.",
        f"{seen}; even within {measured_stops(stands.uneven_stops)} stops, it meets the label at {steep:.0f}° to its face.",
    )


def _bounce(asked: Asked, zone: ZonePlaces) -> Iterator[Proposal]:
    """A small white card under the lens that throws a light onto the zone from the other side, at its bisector."""
    lamps: list[Light] = [one for one in asked.plan.lights if one.emission.on]
    if not lamps:
        return
    middle, facing = zone.places.mean(axis=0), zone.normals.mean(axis=0)
    facing /= np.linalg.norm(facing)
    best = asked.main_light or lamps[0]
    above = best.stance.place.y_m > middle[1]
    eye = asked.plan.camera.place.array()
    toward = eye - middle
    flat = np.array([toward[0], 0.0, toward[2]])
    flat /= max(float(np.linalg.norm(flat)), 1e-9)
    place = _below_frame(asked, middle, flat) if above else middle + BOUNCE_AWAY_M * flat + np.array([0.0, 0.2, 0.0])
    if place is None:
        return
    turn, tilt = aimed(place, middle, best.stance.place.array())
    _, _, front = orientation.axes(turn_rad=turn, tilt_rad=tilt)
    if float(front @ (best.stance.place.array() - place)) <= 0 or float(front @ (middle - place)) <= 0:
        return
    x, y, z = (float(v) for v in place)
    key = fresh_key(asked.document, "bounce")
    thing = {
        **new_thing("white card"), "name": "Bounce under the lens" if above else "Bounce over the label",
        "place": where(Point(x_m=x, y_m=y, z_m=z)), "turn_deg": round(math.degrees(turn), 2), "tilt_deg": round(math.degrees(tilt), 2),
        "width_cm": BOUNCE_CM[0], "height_cm": BOUNCE_CM[1], "key": key,
        "aim": {
            "at": "place", "x_cm": round(100 * float(middle[0]), 1), "y_cm": round(100 * float(middle[1]), 1),
            "z_cm": round(100 * float(middle[2]), 1), "on": "the label", "source": best.key,
        },
    }  # fmt: skip
    reasons = (
        f"{BOUNCE_CM[0]:.0f} × {BOUNCE_CM[1]:.0f} cm, {place_words(Point(x_m=x, y_m=y, z_m=z))}, aimed so that it throws {best.name} "
        "onto it: it evens a label lit from one side. Common practice.",
    )  # fmt: skip
    changes = (Change(kind="add", path=("cards",), value=thing),)
    yield Proposal(title="A small bounce card", reasons=reasons, changes=changes, rank=70.0)


def _below_frame(asked: Asked, middle: Array, flat: Array) -> Array | None:
    """The nearest place before a zone where a bounce stands just under what the frame shows, over the table or before it; None where
    there is none up to the lens."""
    camera, table = asked.plan.camera, asked.plan.table
    eye, (_, up, ahead) = camera.place.array(), camera.to_frame()
    half_h = camera.half_field[1]
    lowest = ahead - half_h * up
    half = BOUNCE_CM[1] / 200
    for away in BOUNCE_TRIED_M:
        place = middle + away * flat
        along = float((place - eye) @ -flat)
        if along < 0.1:
            return None
        bottom = eye + along / float(lowest @ -flat) * lowest
        height = float(bottom[1]) - half * 1.1
        on_table = (
            table is not None
            and abs(place[0] - table.x_m) < table.width_m / 2 + 0.1
            and (abs(place[2] - table.z_m) < table.depth_m / 2 + 0.1)
        )
        if on_table and height - half < 0.005:
            continue
        return np.array([place[0], min(height, middle[1] - 0.03), place[2]])
    return None
