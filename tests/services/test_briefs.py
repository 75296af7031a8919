"""A brief as it is typed."""

import pytest

from fotaxis.services.briefs import day, deliverable
from fotaxis.services.ports import Refused


def test_a_deliverable_as_people_write_it():
    one = deliverable("Shop square", "1:1", "2400", "8")
    assert one.words == "8 × Shop square, 1:1, 2,400 px long"
    assert deliverable("Page", "4x5", "", "").words == "1 × Page, 4:5"


@pytest.mark.parametrize(
    ("given", "words"),
    [(("Shop", "square", "", ""), "written as 4:5"), (("Shop", "1:0", "", ""), "written as 4:5"),
     (("Shop", "1:1", "big", ""), "whole number"),
     (("Shop", "1:1", "", "0"), "1 to"), (("Shop", "1:1", "99999999", ""), "60,000")],
)  # fmt: skip
def test_what_cannot_be_is_refused_in_words(given, words):
    with pytest.raises(Refused, match=words):
        deliverable(*given)


def test_days():
    assert day("2027-01-12", "The rehearsal") == "2027-01-12"
    assert day(" ", "The rehearsal") == ""
    with pytest.raises(Refused, match="2027-03-14"):
        day("next Tuesday", "The rehearsal")
