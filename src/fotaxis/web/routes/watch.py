"""For whoever watches the installation: health and figures."""

from __future__ import annotations

import asyncio
import ipaddress
import resource

from anyio import to_thread
from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response
from prometheus_client import CONTENT_TYPE_LATEST, Gauge, generate_latest

from fotaxis.services.ports import NotFound
from fotaxis.services.watch import Health
from fotaxis.web.auth import AppServices, Services

router = APIRouter()

LONGEST_S = 0.8
WAITING = Gauge("fotaxis_work_waiting", "Pictures and finals that workers have to make", ["lane"])
WORKERS = Gauge("fotaxis_workers", "Workers that live", ["lane"])
PICTURES = Gauge("fotaxis_pictures_waiting", "Quick pictures that wait for their turn in this server")
KEPT = Gauge("fotaxis_kept_bytes", "What this server keeps of traced sets and pictures")
DATABASE = Gauge("fotaxis_database_up", "Does the database answer?")
MEMORY = Gauge("fotaxis_memory_bytes", "The most memory this server has had")

_looking: asyncio.Task[Health] | None = None


async def _look(app: Services) -> Health:
    """Within 0.8 s, whatever hangs; however many ask, one look at a time."""
    global _looking
    if _looking is None or _looking.done() or _looking.get_loop() is not asyncio.get_running_loop():
        _looking = asyncio.create_task(to_thread.run_sync(app.watch.look))
    try:
        return await asyncio.wait_for(asyncio.shield(_looking), LONGEST_S)
    except TimeoutError:
        return Health(database=False)


@router.get("/health")
async def health(app: AppServices) -> Response:
    """200 when people can work, 503 when not; lanes: screen for pictures at the bench, final for finals."""
    found = await _look(app)
    told = {
        "state": "up" if found.well else "down", "server": "up", "database": "up" if found.database else "down",
        "workers": found.workers, "waiting": found.waiting, "pictures_waiting": found.pictures,
    }  # fmt: skip
    return JSONResponse(told, status_code=200 if found.well else 503)


@router.get("/metrics")
async def metrics(request: Request, app: AppServices) -> Response:
    """Figures in the text format that common collectors read; for this machine and private networks alone."""
    host = request.client.host if request.client else ""
    try:
        address = ipaddress.ip_address(host)
    except ValueError:
        raise NotFound from None
    if not (address.is_loopback or address.is_private) or "x-forwarded-for" in request.headers:
        raise NotFound
    found = await _look(app)
    DATABASE.set(found.database)
    for lane in ("screen", "final"):
        WAITING.labels(lane).set(found.waiting.get(lane, 0))
        WORKERS.labels(lane).set(found.workers.get(lane, 0))
    PICTURES.set(found.pictures)
    KEPT.set(app.pictures.kept_bytes)
    MEMORY.set(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024)
    return Response(generate_latest(), media_type=CONTENT_TYPE_LATEST)
