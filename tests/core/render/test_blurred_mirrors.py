"""Satin and brushed metal: no seams, no grain, the same left and right."""

import numpy as np
import pytest

from fotaxis.core.columns import GATHER
from fotaxis.core.materials.catalogue import SKINS
from fotaxis.core.render.final.final_render import render_final
from fotaxis.core.render.final.final_shading import FinalShading
from fotaxis.core.render.final.quality import FINAL, never_cancel
from fotaxis.core.render.lighting import FINE, lighting
from fotaxis.core.render.passes import table_nodes, white_radiance
from fotaxis.core.render.preview.traced_scene import trace_scene
from tests import scenes

WIDTH, HEIGHT = 240, 300
SKIN_OF = {entry.name: entry.skin for entry in SKINS}
BRIGHT = 0.1
"""Compared where it is brighter than this part of the brightest."""


def can_between_two_panels(skin):
    panels = [scenes.panel(key, x=side * 0.6, y=0.1, z=0.3, turn=-side * 117) for key, side in (("l", -1), ("r", 1))]
    cam = scenes.camera(distance=1.2, height=0.1, aim=0.1)
    return scenes.bare(scenes.cylinder(0.05, 0.20), body=skin, lights=tuple(panels), cam=cam)


@pytest.fixture(scope="module", params=["silver foil", "brushed aluminium"])
def rendered(request):
    plan = can_between_two_panels(SKIN_OF[request.param])
    stage = trace_scene(plan, width=WIDTH, height=HEIGHT)
    return plan, stage, render_final(stage, plan, quality=FINAL).pictures[1:, ..., 1].sum(axis=0).astype(float)


@pytest.mark.slow
def test_a_set_alike_left_and_right_gives_a_picture_alike_left_and_right(rendered):
    _, stage, picture = rendered
    other = picture[:, ::-1]
    high = np.maximum(picture, other)
    shown = stage.is_product & stage.is_product[:, ::-1] & (high > BRIGHT * picture[stage.is_product].max())
    assert shown.sum() > 3000
    assert np.quantile(np.abs(picture - other)[shown] / high[shown], 0.95) < 0.03


@pytest.mark.slow
def test_no_column_of_a_blurred_mirror_is_a_crease(rendered):
    # Every place of one row followed by itself along 6000 directions: no node beside it, nothing between nodes.
    plan, stage, picture = rendered
    lit = lighting(plan, stage.scene, FINE)
    shading = FinalShading(
        plan=plan, stage=stage, lit=lit, on_matte=lit, watch=never_cancel, direct=lit.direct(stage.fine_grid.places),
        table=table_nodes(lit, stage.fine_table_grid, stage.fine_grid), quality=FINAL,
    )  # fmt: skip
    row = HEIGHT // 2
    places = stage.traced.gather_points
    mine = places[np.abs(places[:, GATHER.V] - row - 0.5) < 0.1]
    columns = mine[:, GATHER.U].astype(int)
    assert len(np.unique(columns)) > 60
    shown = white_radiance(shading.direct + shading.table)
    alone = shading._seen_by(shown, mine, 6000, 0.0)[:, 1:, 1].sum(axis=1)
    bright = alone > BRIGHT * alone.max()
    off = np.abs(picture[row, columns] - alone)[bright] / alone[bright]
    assert np.median(off) < 0.02
    assert off.max() < 0.12
