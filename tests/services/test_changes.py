"""Changes of a document by thing and field: set, add, remove, move; of two people, never one over the other unseen."""

import pytest

from fotaxis.core.errors import FormatError
from fotaxis.services.changes import UNKNOWN, Change, applied, contradicted, value_at

DOCUMENT = {"lights": [{"key": "left", "place": {"x_cm": 1.0}, "on": True}], "cards": [], "others": [], "iso": 100}


def change(path, value, **more):
    return Change(kind="set", path=tuple(path.split(".")), value=value, **more)


def test_a_change_is_contradicted_only_where_its_own_place_was_changed():
    moved = applied(DOCUMENT, [change("lights.left.place.x_cm", 5.0)])
    assert contradicted(moved, [change("lights.left.on", False, was=True)]) is None
    assert contradicted(moved, [change("lights.left.place.x_cm", 7.0, was=1.0)]) is not None
    assert contradicted(moved, [change("lights.left.place.x_cm", 5.0, was=1.0)]) is None  # both want the same
    assert contradicted(moved, [change("lights.left.place.x_cm", 7.0)]) is None  # not said what was seen
    assert contradicted(moved, [change("lights.gone.on", False, was=True)]) is None  # told by applying it


def test_values_are_found_by_key_and_nowhere_is_said():
    assert value_at(DOCUMENT, ("lights", "left", "place", "x_cm")) == 1.0
    for path in (("lights", "right"), ("iso", "deep"), ("nothing",)):
        assert value_at(DOCUMENT, path) is UNKNOWN


@pytest.mark.parametrize("value", [5, "x", None, {"a": 1}, [1], [{"key": [1]}], [[]], [{"key": {}}]])
@pytest.mark.parametrize("name", ["lights", "cards", "others", "readings"])
def test_lists_that_are_none_are_refused_with_their_place(name, value):
    with pytest.raises(FormatError, match=name):
        applied(DOCUMENT, [change(name, value)])


def test_two_that_add_under_one_key_are_both_kept():
    adding = Change(kind="add", path=("lights",), value={"key": "left"})
    both = applied(DOCUMENT, [adding, adding])
    assert [light["key"] for light in both["lights"]] == ["left", "left-2", "left-3"]


LIST = {
    "lights": [{"key": "a", "on": True}, {"key": "b"}, {"key": "c"}],
    "profile": [{"height_cm": 1.0}, {"height_cm": 2.0}],
}


def keys(document):
    return [light["key"] for light in document["lights"]]


def test_a_change_leaves_the_given_document_alone_and_shares_what_it_does_not_touch():
    changed = applied(LIST, [change("lights.a.on", False)])
    assert changed["lights"][0] == {"key": "a", "on": False}
    assert LIST["lights"][0] == {"key": "a", "on": True}
    assert changed["lights"][1] is LIST["lights"][1]
    assert changed["profile"] is LIST["profile"]


def test_things_without_keys_are_named_by_number():
    assert applied(LIST, [change("profile.1.height_cm", 3.0)])["profile"][1] == {"height_cm": 3.0}


@pytest.mark.parametrize(("to", "order"), [(0, "bac"), (1, "abc"), (2, "acb"), (9, "acb"), (-3, "bac")])
def test_a_thing_moves_to_a_place_in_the_build_order_and_not_beyond_its_ends(to, order):
    moved = applied(LIST, [Change(kind="move", path=("lights", "b"), value=to)])
    assert keys(moved) == list(order)


def test_a_thing_is_removed_by_its_key():
    assert keys(applied(LIST, [Change(kind="remove", path=("lights", "b"))])) == ["a", "c"]


@pytest.mark.parametrize(
    "wrong",
    [
        Change(kind="remove", path=("lights", "z")),
        Change(kind="remove", path=("iso",)),
        Change(kind="move", path=("lights", "b"), value="first"),
        Change(kind="add", path=("lights", "a"), value={}),
        Change(kind="bend", path=("lights", "a")),
        Change(kind="set", path=()),
        Change(kind="set", path=("a",) * 9),
    ],
)
def test_a_change_that_makes_no_sense_is_refused_and_says_where(wrong):
    with pytest.raises(FormatError) as refused:
        applied(LIST, [wrong])
    assert refused.value.place


@pytest.mark.parametrize(
    ("name", "field", "before", "after", "then"),
    [
        ("Hard head, 20° grid", "grid_angle_deg", 20.0, 8.0, "Hard head, 8° grid"),
        ("Hard head, 20° grid", "grid_angle_deg", 20, 0, "Hard head"),
        ("Rim", "grid_angle_deg", 20.0, 8.0, "Rim"),
        ("120° grid of mine", "grid_angle_deg", 20.0, 8.0, "120° grid of mine"),
        ("White card left", "kind", "white card", "silver card", "Silver card left"),
    ],
)
def test_a_name_that_tells_what_is_set_follows_it(name, field, before, after, then):
    document = {**DOCUMENT, "lights": [{"key": "left", "name": name, field: before}]}
    changed = applied(document, [change(f"lights.left.{field}", after)])
    assert changed["lights"][0]["name"] == then
    assert document["lights"][0]["name"] == name


def test_a_name_that_is_given_with_the_value_stays():
    document = {**DOCUMENT, "lights": [{"key": "left", "name": "Head, 20° grid", "grid_angle_deg": 20}]}
    both = applied(document, [change("lights.left.grid_angle_deg", 8), change("lights.left.name", "Kicker")])
    assert both["lights"][0]["name"] == "Kicker"
