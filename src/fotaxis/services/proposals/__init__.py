"""Ways to meet a wish, ranked, with reasons; one file for each thing that is wished for.

proposal: what each says of itself, and what it is made from; proposals: all ways for one wish, the best first.
"""

from __future__ import annotations

from collections.abc import Sequence

from fotaxis.core.errors import FotaxisError, NoSolution
from fotaxis.core.frames.readings.edge import EdgeLine
from fotaxis.core.frames.readings.frame_area import FrameArea
from fotaxis.core.frames.readings.frame_spot import FrameSpot
from fotaxis.core.wishes.absent import Absent
from fotaxis.core.wishes.clean import Clean
from fotaxis.core.wishes.cover import Cover
from fotaxis.core.wishes.even import Even
from fotaxis.core.wishes.level import Level
from fotaxis.core.wishes.place import Place
from fotaxis.core.wishes.wish import NamedWish
from fotaxis.services.pictures import Pictures
from fotaxis.services.ports import Document, OwnPiece, ShotCodec
from fotaxis.services.proposals.absence import absence_proposals
from fotaxis.services.proposals.cards import bounce_card, lens_card
from fotaxis.services.proposals.faces import one_face, owned, raised
from fotaxis.services.proposals.from_setup import behind_proposals, shines_through
from fotaxis.services.proposals.ground import ground_proposals
from fotaxis.services.proposals.highlight import Highlight, about_glass, ways_of_wish
from fotaxis.services.proposals.label import label_proposals
from fotaxis.services.proposals.proposal import MOST, Asked, Proposal, taken
from fotaxis.services.proposals.soft import soft
from fotaxis.services.proposals.twin import twin

__all__ = ["Asked", "Proposal", "about_glass", "asked_for", "proposals", "taken", "wished_highlight"]


def asked_for(
    pictures: Pictures, codec: ShotCodec, document: Document, wish: NamedWish, kit: Sequence[OwnPiece] = ()
) -> Asked:
    """A wish on a set as it stands. Raises DomainError when flash and shutter contradict each other."""
    plan, readings = codec.plan(document), codec.readings(document)
    return Asked(
        document=document, plan=plan, wish=wish, readings=readings, values=pictures.named(plan, readings), stage=pictures.stage(plan),
        kit=kit, codec=codec, stage_of=pictures.stage, whole=lambda: pictures.whole(plan), faults_of=pictures.faults,
    )  # fmt: skip


NOTHING_SEEN = "what would be mirrored there is hidden wherever it stood: move what hides it, or the camera."
HIGHLIGHTS = (one_face, twin, owned, soft, bounce_card, lens_card, raised)


def wished_highlight(asked: Asked) -> Highlight | None:
    """The highlight a wish is about; None where it is about none, or none can be seen there."""
    if not isinstance(asked.wish.wish, Place | Cover):
        return None
    try:
        return Highlight(asked=asked, plan=asked.plan, mirrored=ways_of_wish(asked, asked.plan))
    except FotaxisError:
        return None


def highlight_proposals(asked: Asked) -> list[Proposal]:
    """Ways to make a line or a highlight, the best first. Raises NoSolution where no face anywhere can be seen there."""
    highlight = Highlight(asked=asked, plan=asked.plan, mirrored=ways_of_wish(asked, asked.plan))
    found: list[Proposal] = []
    why = NOTHING_SEEN
    for kind in HIGHLIGHTS:
        try:
            found += [one for one in kind(highlight) if one.rank > 0]
        except NoSolution as error:
            why = str(error)
    if not found:
        raise NoSolution(why)
    return sorted(found, key=lambda one: -one.rank)


def proposals(asked: Asked) -> list[Proposal]:
    """All ways to meet a wish, the best first, MOST at most. Raises NoSolution, saying what binds, where there is none."""
    wish = asked.wish.wish
    if isinstance(wish, Place | Cover):
        return highlight_proposals(asked)[:MOST]
    if isinstance(wish, Clean):
        return absence_proposals(asked)[:MOST]
    if isinstance(wish, Absent):
        raise NoSolution("move what is mirrored there out of the mirror's family of angles, or flag it with a black card.")
    if isinstance(wish, Even):
        return label_proposals(asked)[:MOST]
    if isinstance(wish, Level):
        return _level_proposals(asked, wish)[:MOST]
    raise NoSolution("this is a matter of powers: Balance meets it.")


def _level_proposals(asked: Asked, wish: Level) -> list[Proposal]:
    """Ways to a level that powers alone do not bring about."""
    reading = asked.reading
    now = asked.value.level_stops if asked.value else None
    if reading is None or (now is None and not (isinstance(reading.at, EdgeLine) and shines_through(asked.plan))):
        raise NoSolution("it is not seen in this frame; bring it into the frame, or make its line first.")
    if isinstance(reading.at, FrameSpot | FrameArea):
        return ground_proposals(asked)
    if now is None:
        return behind_proposals(asked)
    if wish.target.gap(now) > 0:
        raise NoSolution("it is too bright: Balance (L) brings it down, and says so where it cannot.")
    try:
        return label_proposals(asked)
    except NoSolution:
        if not shines_through(asked.plan):
            raise
    return behind_proposals(asked)
