"""The only place that wires: settings to storage to services to web. `python -m fotaxis.main serve|demo|worker`."""

from __future__ import annotations

import argparse
import logging
import os
import signal
import socket
import subprocess
import sys
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

import uvicorn
from fastapi import FastAPI
from pwdlib import PasswordHash
from pwdlib.hashers.argon2 import Argon2Hasher
from pydantic import Field, ValidationError
from pydantic_settings import BaseSettings, SettingsConfigDict

from fotaxis.core.frames.line import ReadingLine
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.prediction.plan import Plan
from fotaxis.formats import photo, picture_files, shot_file
from fotaxis.services.accounts import Accounts
from fotaxis.services.finals import FinalMaker, Finals
from fotaxis.services.jobs import Jobs
from fotaxis.services.pictures import Pictures
from fotaxis.services.ports import Document, FinalQueue
from fotaxis.services.shots import Shots
from fotaxis.services.test_frames import TestFrames
from fotaxis.services.view_links import ViewLinks
from fotaxis.storage.database import SqlDatabase, Unreachable, migrate
from fotaxis.storage.final_queue import SqlFinalQueue, work
from fotaxis.web.app import create_app
from fotaxis.web.guard import Services


class Settings(BaseSettings):
    """From environment variables FOTAXIS_DATABASE_URL, FOTAXIS_SECRET, FOTAXIS_HOST, FOTAXIS_PORT, FOTAXIS_HTTPS_ONLY."""

    model_config = SettingsConfigDict(env_prefix="FOTAXIS_")

    database_url: str
    secret: str = Field(min_length=32)
    host: str = "127.0.0.1"
    port: int = Field(default=8450, ge=1, le=65535)
    https_only: bool = True


class WorkerSettings(BaseSettings):
    """What a worker needs: FOTAXIS_DATABASE_URL."""

    model_config = SettingsConfigDict(env_prefix="FOTAXIS_")

    database_url: str


class FinalFiles:
    """services.ports.FinalWriter by formats.picture_files."""

    png = staticmethod(picture_files.png)
    exr = staticmethod(picture_files.exr)


class JsonShots:
    """services.ports.ShotCodec by formats.shot_file."""

    def check(self, document: object) -> Document:
        return shot_file.from_raw(document).model_dump(mode="json")

    def current(self, document: Document) -> Document:
        return shot_file.upgraded(document)

    def plan(self, document: Document) -> Plan:
        return shot_file.with_plan(document)[1]

    def follower(self) -> Callable[[Document], Plan]:
        values = shot_file.Values()
        return lambda document: shot_file.with_plan(document, values)[1]

    def line(self, document: Document) -> ReadingLine:
        return shot_file.LinePart.model_validate(document["reading_line"]).value()

    def readings(self, document: Document) -> tuple[NamedReading, ...]:
        return shot_file.from_raw(document).named_readings()

    def read(self, data: bytes) -> Document:
        return shot_file.read(data).model_dump(mode="json")

    def write(self, document: Document) -> bytes:
        return shot_file.write(shot_file.from_raw(document))


def make_services(database: SqlDatabase, queue: FinalQueue) -> Services:
    """All services over one database and its queue."""
    codec = JsonShots()
    return Services(
        accounts=Accounts(database, PasswordHash((Argon2Hasher(),)), lambda: datetime.now(UTC)),
        jobs=Jobs(database),
        shots=Shots(database, codec),
        pictures=Pictures(),
        frames=TestFrames(database, photo.read),
        finals=Finals(database, queue),
        view_links=ViewLinks(database),
        codec=codec,
    )


def make_app(settings: Settings) -> FastAPI:
    """Migrated database, services and web application from settings."""
    migrate(settings.database_url)
    database = SqlDatabase(settings.database_url)
    queue = SqlFinalQueue(settings.database_url)
    app = create_app(make_services(database, queue), secret=settings.secret, https_only=settings.https_only)

    def close() -> None:
        queue.close()
        database.close()

    app.state.close = close
    return app


def final_maker(database: SqlDatabase) -> FinalMaker:
    """What a worker makes finals with."""
    return FinalMaker(database, JsonShots(), FinalFiles())


def run_worker() -> int:
    """Make final pictures for any server on the same database until stopped; several may run, on several machines."""
    try:
        url = WorkerSettings().database_url  # type: ignore[call-arg]  # the value comes from the environment
        migrate(url)
    except ValidationError:
        print("FOTAXIS_DATABASE_URL: the address of the servers' database is needed. See docs/running.md.", file=sys.stderr)
        return 2
    except Unreachable as error:
        print(error, file=sys.stderr)
        return 1
    print("Worker: making final pictures. Ctrl+C stops it; what it was making is then made by another.", flush=True)
    signal.signal(signal.SIGINT, lambda *_: os._exit(130))  # a picture half made is not waited for
    work(url, final_maker(SqlDatabase(url)).make)
    return 0


def port_is_free(host: str, port: int) -> bool:
    """Can a server listen there?"""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            return False
    return True


def main(arguments: list[str] | None = None) -> int:
    """Start the server; `demo` loads demo data first and prints how to sign in."""
    parser = argparse.ArgumentParser(prog="python -m fotaxis.main", description="Start the Fotaxis server.")
    parser.add_argument("mode", choices=["serve", "demo", "worker"])
    mode = parser.parse_args(arguments).mode
    logging.basicConfig(level=logging.INFO, format="%(levelname)s %(name)s: %(message)s")
    for quiet in ("alembic", "procrastinate"):
        logging.getLogger(quiet).setLevel(logging.WARNING)
    if mode == "worker":
        return run_worker()
    try:
        settings = Settings()  # type: ignore[call-arg]  # values come from the environment
    except ValidationError as error:
        for fault in error.errors():
            name = "FOTAXIS_" + "_".join(str(step) for step in fault["loc"]).upper()
            print(f"{name}: {fault['msg']}. See docs/running.md.", file=sys.stderr)
        return 2
    if not port_is_free(settings.host, settings.port):
        print(
            f"Port {settings.port} is taken, perhaps by another Fotaxis. Stop it, or choose another with FOTAXIS_PORT.",
            file=sys.stderr,
        )
        return 1
    try:
        app = make_app(settings)
    except Unreachable as error:
        print(error, file=sys.stderr)
        return 1
    if mode == "demo":
        from fotaxis.demo.scenario import LOGIN, PASSWORD, load

        load(app.state.services, Path(__file__).parent / "demo")
        print(f"\n  Fotaxis is ready:  http://{settings.host}:{settings.port}/", flush=True)
        print(f"  Sign in as         {LOGIN}\n  with password      {PASSWORD}\n\n  Ctrl+C stops everything.\n", flush=True)
    command = ["setpriv", "--pdeathsig", "TERM", "--", sys.executable, "-m", "fotaxis.main", "worker"]
    beside = [subprocess.Popen(command)] if mode == "demo" else []
    try:
        uvicorn.run(
            app,
            host=settings.host,
            port=settings.port,
            log_level="warning",
            ws_per_message_deflate=False,
            timeout_graceful_shutdown=2,
        )
    finally:
        for worker in beside:
            worker.terminate()
            worker.wait()
    return 0


if __name__ == "__main__":
    sys.exit(main())
