"""What states are called."""

from __future__ import annotations

import pytest

from fotaxis.services.changes import Change
from fotaxis.services.presets import start_document
from fotaxis.services.state_labels import state_label


def put(path, value):
    return Change(kind="set", path=tuple(path.split(".")), value=value)


@pytest.mark.parametrize(
    ("changes", "said", "label"),
    [
        ([put("lights.left.turn_deg", 48)], "Turn", "Left panel turned 50° → 48°"),
        (
            [put("lights.left.place.x_cm", -38), put("lights.left.place.z_cm", -30.5)], "Moved Left panel",
            "Left panel right −42 → −38 cm, front −35 → −30.5 cm",
        ),
        ([put("lights.left.power_stops", -2.667)], "Power", "Left panel power 1/16 → 1/8 +⅓"),
        ([put("lights.left.on", False)], "Left panel off", "Left panel off"),
        ([put("exposure.f_number", 2**3.5)], "Aperture", "Aperture f/8 → f/11"),
        ([put("exposure.iso", 200)], "ISO", "ISO 100 → 200"),
        ([put("camera.distance_cm", 160)], "Lens to axis", "Lens to axis 150 → 160 cm"),
        ([put("lights.left.name", "Key")], "Name", "Left panel renamed Key"),
        ([put("lens.polariser", {"turn_deg": 30})], "Polariser", "Polariser"),
        ([put("lights.left.on", False), put("lights.right.on", False)], "edges off", "edges off"),
        ([Change(kind="remove", path=("lights", "left"))], "Removed Left panel", "Removed Left panel"),
    ],
)  # fmt: skip
def test_a_state_names_the_thing_the_field_and_the_values(changes, said, label):
    assert state_label(start_document("bottle"), changes, said) == label
