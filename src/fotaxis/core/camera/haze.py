"""The air between things: haze."""

from __future__ import annotations

from dataclasses import dataclass

from fotaxis.core.errors import DomainError
from fotaxis.core.limits import require_finite


@dataclass(frozen=True, slots=True, kw_only=True)
class Haze:
    """A layer of even haze, begin_m to end_m behind what the camera aims at.

    thickness_per_m: optical depth of a metre; forward: how strongly it scatters on straight, Henyey-Greenstein's g; droplets of
    a fog machine 0.6 to 0.8 (common practice).
    """

    begin_m: float = 0.2
    end_m: float = 1.2
    thickness_per_m: float = 0.1
    forward: float = 0.7

    def __post_init__(self) -> None:
        require_finite("where the haze begins", self.begin_m, low=-5, high=50, unit="m")
        require_finite("where the haze ends", self.end_m, low=-5, high=50, unit="m")
        require_finite("the haze", self.thickness_per_m, low=0, high=5, unit="per m")
        require_finite("forward scattering of the haze", self.forward, low=0, high=0.95)
        if self.end_m <= self.begin_m:
            raise DomainError("the haze ends before it begins; let it end farther behind the product.")
