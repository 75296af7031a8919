"""Changes of two people: by thing and field, never one over the other unseen."""

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
    if value is None and name == "readings":
        return
    with pytest.raises(FormatError, match=name):
        applied(DOCUMENT, [change(name, value)])


def test_two_that_add_under_one_key_are_both_kept():
    adding = Change(kind="add", path=("lights",), value={"key": "left"})
    both = applied(DOCUMENT, [adding, adding])
    assert [light["key"] for light in both["lights"]] == ["left", "left-2", "left-3"]
