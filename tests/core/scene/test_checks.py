"""What cannot stand where it stands."""

from dataclasses import replace

import pytest

from fotaxis.core.scene.checks import collisions
from fotaxis.formats import shot_file
from fotaxis.services.presets import STARTS, start_document
from tests import scenes
from tests.formats.samples import FILES


def plan(*things, **changes):
    """The bottle on a table 60 x 50 cm."""
    lights = tuple(t for t in things if hasattr(t, "emission"))
    cards = tuple(t for t in things if not hasattr(t, "emission"))
    made = scenes.plan(lights=lights, cards=cards, **changes)
    return replace(made, table=replace(made.table, width_m=0.6, depth_m=0.5))


@pytest.mark.parametrize(
    ("thing", "what"),
    [
        # By hand: the panel is 120 cm high with its middle at 22 cm, so it reaches 38 cm below the table top.
        (scenes.panel("p", x=-0.2, z=-0.1), "the table"),
        (scenes.panel("p", x=-0.42, z=-0.35), None),  # beside and behind it
        (scenes.panel("p", x=-0.2, z=-0.1, y=0.61), None),  # its lower edge 1 cm above
        (scenes.panel("p", x=-0.2, z=-0.1, y=0.60), None),  # standing on it
        (scenes.panel("p", x=0.0, z=0.0, y=0.75, turn=0), "the product"),
        (scenes.card("c", x=0.0, z=0.03, y=0.25, turn=0), "the product"),
        (scenes.card("c", x=0.0, z=0.038, y=0.25, turn=0), None),  # a millimetre before the body, 7.4 cm thick
        (scenes.card("c", x=0.0, z=0.02, y=0.02, turn=0, width=0.02, height=0.03), "the riser"),
    ],
)
def test_a_thing_may_not_stand_in_another(thing, what):
    assert collisions(plan(thing)).get(thing.key) == what


def test_without_table_nothing_runs_through_it():
    assert collisions(replace(plan(scenes.panel("p", x=-0.2, z=-0.1)), table=None)) == {}


@pytest.mark.parametrize("path", FILES, ids=lambda p: p.stem)
def test_the_demo_can_be_built(path):
    assert collisions(shot_file.read(path.read_bytes()).plan()) == {}


@pytest.mark.parametrize("start", STARTS)
def test_every_start_can_be_built(start):
    assert collisions(shot_file.with_plan(start_document(start))[1]) == {}
