"""What a server keeps: 24 shots of all kinds, one after the other opened and dragged."""

from __future__ import annotations

import resource
from collections.abc import Iterator
from dataclasses import replace
from itertools import count

from fotaxis.core.scene.plan import Plan
from fotaxis.formats import shot_file
from fotaxis.operate.precompile import SHOTS
from fotaxis.services.pictures import AT_A_DESK, Pictures

MANY, STEPS = 24, 8


def shots() -> Iterator[tuple[shot_file.ShotDocument, Plan]]:
    """The examples again and again, each time with the camera a centimetre higher: another set to be traced."""
    documents = [shot_file.read(path.read_bytes()) for path in sorted(SHOTS.glob("*.json"))]
    for number in count():
        document = documents[number % len(documents)]
        plan = document.plan()
        place = plan.camera.place
        camera = replace(plan.camera, place=replace(place, y_m=place.y_m + 0.01 * (number // len(documents))))
        yield document, replace(plan, camera=camera)


def run() -> None:
    pictures = Pictures(AT_A_DESK)
    most = 0
    for number, (document, plan) in zip(range(MANY), shots(), strict=False):
        for step in range(STEPS):
            stance = plan.lights[0].stance
            first = replace(
                plan.lights[0], stance=replace(stance, place=replace(stance.place, x_m=stance.place.x_m + 0.01 * step))
            )
            moved = replace(plan, lights=(first, *plan.lights[1:]))
            pictures.preview(moved, document.reading_line.value(), hand=f"hand {number}")
        most = max(most, pictures.kept_bytes)
    room = AT_A_DESK
    print("Memory, 24 shots dragged one after the other in one process")
    print(f"  {'kept at most':<52} {most / 1e6:8.0f} MB")
    print(f"  {'allowed':<52} {(room.stages + room.pictures + 2 * room.looks + room.drags) / 1e6:8.0f} MB")
    print(
        f"  {'whole process at its peak (wanted: 1500)':<52} {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e3:8.0f} MB"
    )
