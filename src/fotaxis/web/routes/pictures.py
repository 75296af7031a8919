"""Predicted pictures: layers for the page to mix, whole pictures, thumbnails."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated
from uuid import UUID

import numpy as np
from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from fotaxis.core.frames.line import ReadingLine
from fotaxis.core.prediction.plan import Plan
from fotaxis.core.prediction.rest import GivenUp
from fotaxis.formats.picture_files import png
from fotaxis.services.pictures import Prediction
from fotaxis.web.guard import All, Here
from fotaxis.web.views import bench as view
from fotaxis.web.waiting import while_waited_for

router = APIRouter()

THUMBNAIL_SIDE = 260


@router.get("/shots/{shot_id}/layers")
async def layers(
    request: Request, all_: All, here: Here, shot_id: UUID, side: Annotated[int, Query(ge=64, le=1200)] = 600
) -> Response:
    """A header (4 bytes length, JSON), then every layer as float16, (1 + lights, height, width, 3).

    Levels at full power and f-number, ISO and shutter of 1: the page multiplies by the gains of the state and adds.
    Given up, with nothing in the answer, when the page does not wait for it any more.
    """
    studio = here.user.studio_id

    def made(wanted: Callable[[], bool]) -> bytes:
        opened = all_.shots.open(studio, shot_id)

        def plan_now() -> Plan:
            nonlocal opened
            opened = all_.shots.open(studio, shot_id)
            return all_.codec.plan(opened.document)

        prediction = all_.pictures.fine_of(plan_now, long_side=side, wanted=wanted)
        return _packed_layers(prediction, all_.codec.line(opened.document), view.layers_key(opened.document))

    try:
        packed = await while_waited_for(request, made)
    except GivenUp:
        return Response(status_code=503)
    return Response(packed, media_type="application/octet-stream")


def _packed_layers(prediction: Prediction, line: ReadingLine, key: str) -> bytes:
    width, height = prediction.layers.size
    # float16 ends at 65504 and is coarse below 6e-8: each layer is scaled to peak at 1, the scale goes along.
    peaks = np.maximum(prediction.layers.pictures.max(axis=(1, 2, 3)), 1e-12)
    halves = (prediction.layers.pictures / peaks[:, None, None, None]).astype(np.float16)
    header = {
        "keys": prediction.layers.keys,
        "width": width,
        "height": height,
        "scales": peaks.tolist(),
        "layers_key": key,
        "lost_share": prediction.layers.lost_share,
        "line": view.line_reading(prediction.read_line(line)),
    }
    return view.packed(header, halves.tobytes())


@router.get("/shots/{shot_id}/picture.png")
def picture(all_: All, here: Here, shot_id: UUID, side: Annotated[int, Query(ge=64, le=1600)] = 800) -> Response:
    opened = all_.shots.open(here.user.studio_id, shot_id)
    prediction = all_.pictures.fine(all_.codec.plan(opened.document), long_side=side)
    return Response(png(prediction.developed()), media_type="image/png")


@router.get("/shots/{shot_id}/thumbnail.png")
def thumbnail(all_: All, here: Here, shot_id: UUID) -> Response:
    """The current picture, small; made when it is first asked for and kept until the shot changes."""
    studio = here.user.studio_id
    opened = all_.shots.open(studio, shot_id)
    kept = all_.shots.thumbnail(studio, shot_id)
    if kept and kept[0] == opened.shot.revision:
        return Response(kept[1], media_type="image/png")
    plan = view.without_fault(all_.codec.plan(opened.document))
    made = png(all_.pictures.quick(plan, long_side=THUMBNAIL_SIDE))
    all_.shots.keep_thumbnail(studio, shot_id, revision=opened.shot.revision, picture=made)
    return Response(made, media_type="image/png")
