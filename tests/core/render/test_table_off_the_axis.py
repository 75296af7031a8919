"""A table whose middle is not under the product."""

from dataclasses import replace

import numpy as np
from pytest import approx

from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.render.final.quality import SCREEN
from fotaxis.core.render.lighting import FINE, lighting
from fotaxis.core.scene.checks import collisions
from fotaxis.core.scene.plan import Table
from tests import scenes

WHITE_GLOSS = replace(scenes.PAPER, coat_index=1.49)
PLACES = np.array(
    [[0.0, h, 0.037, 0, 0, 1.0, 0, 1] for h in (0.05, 0.1, 0.2)] + [[0.1, 0.1, 0.0, 0, -1.0, 0, 0, 1]], np.float32
)


def table(width, x=0.0, depth=0.8, z=0.0):
    return Table(skin=WHITE_GLOSS, width_m=width, depth_m=depth, x_m=x, z_m=z)


def by_way_of(top):
    plan = scenes.plan(table=top)
    lit = lighting(plan, pack_static_scene(plan), FINE)
    return lit.from_table(PLACES).sum(axis=(1, 2))


def test_two_halves_throw_up_the_light_of_the_whole():
    # Light is additive: the left and the right half of a table, each by itself, against both together. Cells are cut at the edge.
    whole, left, right = (by_way_of(top) for top in (table(1.6), table(0.8, -0.4), table(0.8, 0.4)))
    assert whole.min() > 0
    assert left + right == approx(whole, rel=0.02)
    assert left != approx(right, rel=0.05)
    front, back = by_way_of(table(1.2, depth=0.4, z=0.2)), by_way_of(table(1.2, depth=0.4, z=-0.2))
    assert front + back == approx(by_way_of(table(1.2)), rel=0.02)


def test_pictures_of_mirrored_sets_are_mirrored():
    lights = (scenes.panel("left"), scenes.panel("right", x=0.42, turn=-50.0))
    left, right = (
        predict(scenes.plan(table=table(0.5, x), lights=lights), long_side=100, quality=SCREEN).pictures for x in (-0.2, 0.2)
    )
    # The lights change places too.
    off = np.abs(left[[1, 2]] - right[[2, 1], :, ::-1]) / right.max()
    assert np.quantile(off, 0.99) < 0.01  # an edge's samples lie on a lattice that is not its own mirror image
    assert np.abs(left[1] - right[1]).max() > 0.1 * left.max()


def test_a_panel_beside_a_table_that_was_moved_away_does_not_run_through_it():
    low = scenes.panel("low", x=-0.4, y=0.1, height=0.6)
    centred, moved = (collisions(scenes.plan(table=table(1.2, x), lights=(low,))) for x in (0.0, 0.5))
    assert centred == {"low": "the table"}
    assert moved == {}
