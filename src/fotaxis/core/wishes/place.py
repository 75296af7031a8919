"""Where a line lies and how its sides look: from 85 to 95 % of the half width, crisp outside, soft inside."""

from __future__ import annotations

from dataclasses import dataclass

from fotaxis.core.errors import DomainError
from fotaxis.core.frames.levels import percent
from fotaxis.core.frames.line_reading import CRISP
from fotaxis.core.frames.readings.edge import LineValue
from fotaxis.core.limits import require_finite
from fotaxis.core.measures import Choice, Measure
from fotaxis.core.wishes.wish import MET, OPEN, UNMET, VISIBLE_OF_WIDTH, Figure, Judged, Seen, Wish, WishKind, missing

ANY, CRISP_SIDE, SOFT_SIDE = "any", "crisp", "soft"
HALF_MET = 0.01
"""An end of a line this part of the half width off is where it was wished for."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Place(Wish):
    """A line from one part of the product's half width to another, over at least a share of its height; inside, outside: its sides."""

    reading: str
    near: float
    far: float
    within: float
    height: float
    inside: str
    outside: str

    def __post_init__(self) -> None:
        require_finite("inner end of a line", self.near, low=0, high=1)
        require_finite("outer end of a line", self.far, low=0, high=1)
        require_finite("tolerance of a line's ends", self.within, low=HALF_MET, high=0.5)
        require_finite("share of a line's height", self.height, low=0, high=1)
        if not self.near < self.far:
            raise DomainError("a line's outer end must lie further out than its inner end.")

    @property
    def words(self) -> str:
        sides = [f"{how} {side}" for side, how in (("inside", self.inside), ("outside", self.outside)) if how != ANY]
        return ", ".join([f"from {percent(self.near)} to {percent(self.far)} of the half width", *sides])

    def judge(self, seen: Seen) -> Judged:
        value = seen.values.get(self.reading)
        if not isinstance(value, LineValue):
            return missing(seen.names, self.reading)
        middle, half = abs(value.place), value.width / 2
        near, far = middle - half, middle + half
        figure = f"{100 * near:.0f}–{100 * far:.0f} %"
        faults = []
        for end, now, wanted in (("inner", near, self.near), ("outer", far, self.far)):
            if abs(now - wanted) > self.within:
                way = "too far out" if now > wanted else "too far in"
                faults.append(f"its {end} end is {100 * abs(now - wanted):.0f} % {way}")
        for side, softness, wanted_ in (("inside", value.inner, self.inside), ("outside", value.outer, self.outside)):
            if wanted_ != ANY and (softness <= CRISP) != (wanted_ == CRISP_SIDE):
                faults.append(f"it is {SOFT_SIDE if softness > CRISP else CRISP_SIDE} {side}")
        if value.found < self.height:
            faults.append(f"it is seen over {percent(value.found)} of its height")
        if not faults:
            return Judged(state=MET, figure=figure, words=f"lies from {figure.replace('–', ' to ')}")
        return Judged(state=OPEN, figure=figure, words=", ".join(faults))

    def lack(self, seen: Seen) -> float:
        value = seen.values.get(self.reading)
        if not isinstance(value, LineValue):
            return UNMET
        middle, half = abs(value.place), value.width / 2
        off = max(abs(middle - half - self.near), abs(middle + half - self.far)) / self.within - 1
        return max(0.0, off) + max(0.0, self.height - value.found)

    def figures(self, seen: Seen) -> tuple[Figure, ...]:
        value = seen.values.get(self.reading)
        if not isinstance(value, LineValue):
            return ()
        middle, half = abs(value.place), value.width / 2
        visible = 2 * VISIBLE_OF_WIDTH
        return (
            Figure(name="its inner end", value=middle - half, visible=visible, unit="share"),
            Figure(name="its outer end", value=middle + half, visible=visible, unit="share"),
        )


def _share(name: str, words: str, usual: float) -> Measure:
    return Measure(name=name, words=words, unit="0–1", low=0, high=1, usual=usual, step=0.01)


KIND = WishKind(
    key="place", about="A line from one part of the product's half width to another, its sides crisp or soft.", refs=("reading",),
    measures=(
        _share("near", "From", 0.85), _share("far", "To", 0.95), _share("height", "Over its height", 0.9),
        Measure(name="within", words="Within", unit="0.01–0.5", low=HALF_MET, high=0.5, usual=0.03, step=0.01),
        Choice(name="inside", words="Inside", choices=(ANY, CRISP_SIDE, SOFT_SIDE), usual=ANY),
        Choice(name="outside", words="Outside", choices=(ANY, CRISP_SIDE, SOFT_SIDE), usual=ANY),
    ),
    make=lambda v: Place(
        reading=v["reading"], near=v["near"], far=v["far"], within=v["within"], height=v["height"], inside=v["inside"],
        outside=v["outside"],
    ),
    add="Where a line lies", readings=("edge",),
)  # fmt: skip
