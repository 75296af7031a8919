"""Named readings, one file a kind; a new one is written like frame_spot.py and listed here.

reading: what every reading says. READINGS: all kinds by their word in the shot file.
"""

from __future__ import annotations

from dataclasses import dataclass

from fotaxis.core.frames.readings import area, dark_core, edge, evenness, frame_area, frame_spot, lettering, spot
from fotaxis.core.frames.readings.reading import Reading, ReadingKind

READINGS: dict[str, ReadingKind] = {
    module.KIND.key: module.KIND for module in (spot, edge, frame_spot, dark_core, lettering, evenness, area, frame_area)
}


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedReading:
    """A reading that is kept with the shot."""

    key: str
    name: str
    at: Reading
