"""The sun in a clear sky at a place, date and hour: it stands where the almanac says, not where a hand puts it."""

from __future__ import annotations

from fotaxis.core.lights.modifiers.kind import LIGHTS, ModifierKind

KIND = ModifierKind(
    key="sun", group=LIGHTS, about="The sun in a clear sky at a place, date and hour.",
    begins={
        "kind": "sun", "name": "Sun", "latitude_deg": 52, "longitude_deg": 10, "date": "2026-06-21", "hour": 8, "looks_deg": 0,
        "power_stops": 0,
    },
)  # fmt: skip
