"""services.ports.FinalQueue on PostgreSQL: a durable queue that any number of workers take from."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from uuid import UUID

import procrastinate

TASK = "final"
HEARTBEAT_S = 2.0
STALLED_AFTER_S = 8.0

Make = Callable[[UUID, UUID], None]


def plain_url(url: str) -> str:
    """A PostgreSQL URL without a driver's name in it."""
    return url.replace("postgresql+psycopg://", "postgresql://", 1)


class SqlFinalQueue:
    """Puts finals into the queue."""

    def __init__(self, url: str) -> None:
        self._app = procrastinate.App(
            connector=procrastinate.SyncPsycopgConnector(conninfo=plain_url(url), min_size=0, max_size=4)
        )
        self._app.open()

    def put(self, studio_id: UUID, final_id: UUID) -> None:
        self._app.configure_task(TASK, allow_unknown=True).defer(studio_id=str(studio_id), final_id=str(final_id))

    def close(self) -> None:
        """Give all connections back."""
        self._app.close()


def work(url: str, make: Make, *, wait: bool = True) -> None:
    """Take finals from the queue and make them, one at a time, until stopped; wait False: until none is left.

    A worker may be stopped at any moment, as by kill -9: what it was making is made by another from the start. It tells every
    two seconds that it lives; what one held that has been silent for eight goes back into the queue, looked for by every other
    worker when it starts and then every few seconds.
    """
    app = procrastinate.App(connector=procrastinate.PsycopgConnector(conninfo=plain_url(url), min_size=1, max_size=4))

    @app.task(name=TASK)
    def final(studio_id: str, final_id: str) -> None:
        make(UUID(studio_id), UUID(final_id))

    async def put_back() -> None:
        for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_AFTER_S):
            await app.job_manager.retry_job(job)

    async def keep_putting_back() -> None:
        while True:
            await asyncio.sleep(STALLED_AFTER_S / 2)
            await put_back()

    async def run() -> None:
        async with app.open_async():
            await put_back()
            looking = asyncio.create_task(keep_putting_back())
            try:
                await app.run_worker_async(
                    wait=wait, concurrency=1, fetch_job_polling_interval=1.0, update_heartbeat_interval=HEARTBEAT_S,
                    stalled_worker_timeout=STALLED_AFTER_S, install_signal_handlers=False, delete_jobs="successful",
                )  # fmt: skip
            finally:
                looking.cancel()

    asyncio.run(run())
