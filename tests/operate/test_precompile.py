"""While the kernels are compiled the application says how far that is, and makes no picture."""

from __future__ import annotations

import pytest

from fotaxis.operate.precompile import ALL_FUNCTIONS, BEGUN, DONE, KINDS, Readiness, pieces
from fotaxis.services.ports import Busy
from fotaxis.services.turns import Turns


def test_readiness_follows_the_marks_in_the_folder(tmp_path):
    assert Readiness(None).ready
    assert Readiness(tmp_path).ready  # nobody has begun to compile: what is needed is compiled where it is called
    (tmp_path / BEGUN).touch()
    readiness = Readiness(tmp_path)
    assert not readiness.ready
    assert "0 % done" in readiness.words()
    for number in range(ALL_FUNCTIONS // 2):
        (tmp_path / f"{number}.nbi").touch()
    assert readiness.share == pytest.approx(0.5, abs=0.01)
    (tmp_path / DONE).touch()
    assert readiness.ready
    assert readiness.words() == ""
    assert readiness.share == 1.0


def test_a_picture_that_is_asked_for_too_early_is_asked_for_again():
    state = ["not yet: 40 % done"]
    turns = Turns(1, not_ready=lambda: state[0])
    with pytest.raises(Busy, match="40 %"):
        turns.ask("studio", "person", lambda: 1)
    state[0] = ""
    assert turns.ask("studio", "person", lambda: 7).result(5) == 7
    turns.close()


def test_every_kind_of_work_is_done_for_every_shot_once():
    work = pieces()
    assert len(work) == len(set(work)) >= 4 * 8
    assert {kind for kind, _ in work} == set(KINDS)
