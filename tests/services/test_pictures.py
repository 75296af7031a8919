"""What pictures keep from one to the next, and what drags keep when many hands are at work."""

import pytest

from fotaxis.core.frames.line_profile import ReadingLine
from fotaxis.core.render.final.quality import SCREEN
from fotaxis.core.render.parallel import RenderCancelled
from fotaxis.services.pictures import Pictures, Room
from tests import scenes

LINE = ReadingLine(x0=0, y0=0.5, x1=1, y1=0.5)


def test_a_picture_called_off_is_given_up_and_the_next_one_is_made():
    pictures, plan = Pictures(), scenes.plan()
    asked = iter(range(100))
    with pytest.raises(RenderCancelled):
        pictures.fine(plan, long_side=60, quality=SCREEN, watch=lambda _: next(asked) < 1)
    assert pictures.fine(plan, long_side=60, quality=SCREEN).layers.pictures.shape[1] == 60


def test_a_fine_picture_made_elsewhere_is_read_as_ones_own():
    made, own, plan = Pictures(), Pictures(), scenes.plan()
    fine = made.fine(plan, long_side=80, quality=SCREEN)
    draft = own.read(plan, LINE, long_side=80).per_layer
    own.remember_fine(plan, fine.is_product, fine.layers)
    assert own.has_fine(plan) is False  # too small to be shown by itself, but read
    assert (own.read(plan, LINE, long_side=80).per_layer == made.read(plan, LINE, long_side=80).per_layer).all()
    assert draft.shape == own.read(plan, LINE, long_side=80).per_layer.shape


def test_without_room_for_a_hand_its_pictures_are_the_same():
    plan = scenes.plan()
    with_room, without = Pictures(), Pictures(Room(drags=0, stages=0, looks=0))
    for _ in range(3):
        first, _ = with_room.preview(plan, LINE, long_side=80, hand="a")
        second, _ = without.preview(plan, LINE, long_side=80, hand="a")
        assert (first == second).all()
    assert without.kept_bytes == 0
    assert with_room.kept_bytes > 0
    kept = with_room.kept_bytes
    with_room.let_go("a")
    assert with_room.kept_bytes < kept
