"""What must not be in the picture as a whole: other mirror images, lens, table, veil, hot spots, things in the frame."""

from __future__ import annotations

from dataclasses import dataclass

from fotaxis.core.constants import DEEPEST_BLACK_STOPS
from fotaxis.core.frames.black_frame import SAFE_STOPS
from fotaxis.core.frames.levels import percent
from fotaxis.core.frames.readings.area import AreaValue
from fotaxis.core.frames.readings.edge import LineValue
from fotaxis.core.frames.whole_picture import WholePicture
from fotaxis.core.keys import BACKGROUND_KEY, RISER_KEY, TABLE_KEY
from fotaxis.core.limits import require_finite
from fotaxis.core.measures import Choice, Measure
from fotaxis.core.stops import BLACK, signed_stops
from fotaxis.core.wishes.wish import MET, OPEN, UNSEEN, Judged, Seen, Wish, WishKind

MIRRORED, LENS, TABLE, VEIL, HOT, IN_FRAME, ROOM = "mirrored", "lens", "table", "veil", "hot spots", "in frame", "room"
WHATS = {
    MIRRORED: "nothing else mirrored", LENS: "lens not seen", TABLE: "table not seen in the gloss", VEIL: "no veil",
    HOT: "no hot spot", IN_FRAME: "nothing in the frame that does not belong", ROOM: "room light below −6 stops",
}  # fmt: skip
STILL = (TABLE_KEY, BACKGROUND_KEY, RISER_KEY)
"""What stands anyway: the table's image has a wish of its own."""

NAMED = 3
MAKES = 0.3
"""A light that gives so much of a line or an area is meant to be mirrored there."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Clean(Wish):
    """An absence; share: so much of the product may show it all the same."""

    what: str
    share: float

    def __post_init__(self) -> None:
        require_finite("share that may be mirrored", self.share, low=0, high=1)

    @property
    def whole(self) -> bool:
        return True

    @property
    def words(self) -> str:
        return WHATS[self.what]

    def judge(self, seen: Seen) -> Judged:
        if seen.whole is None:
            return Judged(state=UNSEEN, figure="—", words="not seen in this frame")
        if self.what == MIRRORED:
            return self._mirrored(seen, seen.whole)
        if self.what == TABLE:
            return self._of(sum(one.share for one in seen.whole.mirrored if one.key == TABLE_KEY), "the table is mirrored")
        if self.what == LENS:
            return self._of(seen.whole.lens, "the lens shows dark")
        if self.what == ROOM:
            return _room(seen.whole.room_stops)
        told = {VEIL: seen.whole.veil, HOT: seen.whole.hot, IN_FRAME: seen.whole.in_frame}[self.what]
        if not told:
            return Judged(state=MET, figure="none", words="is so")
        return Judged(state=OPEN, figure=str(len(told)), words=" ".join(told))

    def _of(self, share: float, words: str) -> Judged:
        if share <= self.share:
            return Judged(state=MET, figure=percent(share), words="is so")
        return Judged(state=OPEN, figure=percent(share), words=f"{words} over {percent(share)} of the product")

    def _mirrored(self, seen: Seen, whole: WholePicture) -> Judged:
        wanted = makers(seen)
        others = [one for one in whole.mirrored if one.of not in wanted and one.key not in STILL]
        share = sum(one.share for one in others)
        if share <= self.share:
            return Judged(state=MET, figure=percent(share), words="is so")
        most = [f"{one.of} on {one.zone} ({percent(one.share)})" for one in others[:NAMED]]
        return Judged(state=OPEN, figure=percent(share), words=f"mirrored too: {', '.join(most)}")


def _room(stops: float) -> Judged:
    """The black frame: ambient at least 6 stops under. Common practice."""
    figure = BLACK if stops <= DEEPEST_BLACK_STOPS else signed_stops(stops)
    if stops <= SAFE_STOPS:
        return Judged(state=MET, figure=figure, words=f"is {figure} by itself")
    return Judged(state=OPEN, figure=figure, words=f"is {figure} by itself: a faster shutter up to sync, or darken the room")


def makers(seen: Seen) -> set[str]:
    """Names of what makes the lines and highlights that are read."""
    found: set[str] = set()
    for value in seen.values.values():
        if isinstance(value, LineValue):
            found |= {run.of for run in value.runs if run.of}
        elif isinstance(value, AreaValue) and value.of:
            found.add(value.of)
        if isinstance(value, LineValue | AreaValue) and len(value.shares) == 1 + len(seen.lights):
            found |= {name for name, share in zip(seen.lights, value.shares[1:], strict=True) if share >= MAKES}
    return found


KIND = WishKind(
    key="clean", about="What must not be in the picture as a whole.", refs=(),
    measures=(
        Choice(name="what", words="What", choices=tuple(WHATS), what="absence", usual=MIRRORED),
        Measure(name="share", words="But for", unit="0–1", low=0, high=1, usual=0.01, step=0.01),
    ),
    make=lambda v: Clean(what=v["what"], share=v["share"]), add="Not in the picture", readings=(),
)  # fmt: skip
