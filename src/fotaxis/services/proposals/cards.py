"""Cards in the place of a panel: a white one that a light reaches already, one with a hole for the lens."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from fotaxis.core.metering import incident
from fotaxis.core.proposals.panel import face_at, nearest_clear
from fotaxis.core.values import Point
from fotaxis.services.aims import aimed
from fotaxis.services.changes import Change, fresh_key
from fotaxis.services.presets import BEFORE_LENS_CM, new_thing
from fotaxis.services.proposals.highlight import Highlight, judged
from fotaxis.services.proposals.maker import maker_of
from fotaxis.services.proposals.proposal import Proposal, size_words, stood

FRONTAL = math.cos(math.radians(12))
HOLE_SLACK = 1.15


def bounce_card(highlight: Highlight) -> Iterator[Proposal]:
    """A white card in the place of a panel, where a light that stands already reaches it, cut to size or owned."""
    asked = highlight.asked
    maker = maker_of(highlight)
    face = nearest_clear(highlight.plan, highlight.mirrored)
    _, _, front = face.axes
    lights = [one for one in highlight.plan.lights if maker is None or one.key not in maker.keys]
    if not lights:
        return
    lux = incident.arriving_lux_s(highlight.plan, place=face.place.array(), normal=front)
    given = {light.key: float(value) for light, value in zip(highlight.plan.lights, lux, strict=True)}
    best = max(lights, key=lambda one: given[one.key])
    if given[best.key] <= 0:
        return
    finish = "white card"
    key = fresh_key(asked.document, "bounce")
    title = f"Cut a {finish} {size_words(face)}"
    thing = {**new_thing(finish), "name": "Bounce card", **stood(face), "key": key}
    changes = [Change(kind="add", path=("cards",), value=thing)]
    reasons = (f"{best.name} lights it: a second source for free, weaker and soft.",)
    yield judged(highlight, title, changes, face, reasons=reasons, less=3.0)


def lens_card(highlight: Highlight) -> Iterator[Proposal]:
    """A white card with a hole for the lens, where the camera stands in the highlight."""
    asked = highlight.asked
    camera = highlight.plan.camera
    toward = camera.place.array() - highlight.mirrored.centre
    away = float(np.linalg.norm(toward))
    facing = float(highlight.mirrored.middle @ toward) / away
    if facing < FRONTAL:
        return
    before = BEFORE_LENS_CM / 100
    face = face_at(highlight.mirrored, max(0.2, away - before))
    half_w, half_h = camera.half_field
    pupil = camera.focal_length_m / highlight.plan.exposure.f_number
    hole = HOLE_SLACK * (pupil + 2 * before * math.hypot(half_w, half_h))
    size = max(face.width_m, face.height_m, 3 * hole)
    x, y, z = (float(v) for v in camera.place.array() - before * toward / away)
    turn, tilt = aimed(np.array([x, y, z]), highlight.mirrored.centre)
    square = replace(
        face, place=Point(x_m=x, y_m=y, z_m=z), turn_rad=turn, tilt_rad=tilt, width_m=size, height_m=size, below_m=0.0
    )
    key = fresh_key(asked.document, "lens-card")
    thing = {**new_thing("lens-hole card"), **stood(square), "hole_cm": round(100 * hole, 1), "key": key}
    reasons = (
        f"A hole {100 * hole:.0f} cm wide lets the frame through; it shows in the "
        "glass as a dark spot: take that part from another frame.",
    )
    yield judged(
        highlight, f"White card with a hole for the lens, {size_words(square)}",
        [Change(kind="add", path=("cards",), value=thing)], square, reasons=reasons, camera=False,
    )  # fmt: skip
