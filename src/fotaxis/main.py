"""The only place that wires: settings to storage to services to web. `python -m fotaxis.main serve|demo|worker`.

One file, though a long one: what is wired to what should be read in one place.
"""

from __future__ import annotations

import argparse
import ctypes
import logging
import os
import signal
import socket
import sys
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import uuid4

import uvicorn
from fastapi import FastAPI
from pwdlib import PasswordHash
from pwdlib.hashers.argon2 import Argon2Hasher
from pydantic import Field, ValidationError
from pydantic_settings import BaseSettings, SettingsConfigDict

from fotaxis.formats import layers_file, photo, picture_files, shot_file
from fotaxis.formats.merge_files import JoinedFiles
from fotaxis.formats.shot_archive import WholeShotFiles
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.formats.wording import fault_words
from fotaxis.identity.codes import OneTimeCodes
from fotaxis.identity.passkeys import WebKeys
from fotaxis.operate import backup, people
from fotaxis.operate.precompile import Readiness, cache_folder
from fotaxis.services.book import Book
from fotaxis.services.briefs import Briefs
from fotaxis.services.captures.exports import WholeShots
from fotaxis.services.captures.merges import KIND as MERGE
from fotaxis.services.captures.merges import MergeMaker, Merges
from fotaxis.services.captures.shooting import Shooting
from fotaxis.services.finals import KIND as FINAL
from fotaxis.services.finals import FinalMaker, Finals
from fotaxis.services.jobs import Jobs
from fotaxis.services.kit import Kit
from fotaxis.services.people.accounts import Accounts
from fotaxis.services.people.factors import Factors
from fotaxis.services.people.secrets import set_up_code
from fotaxis.services.people.staff import Staff
from fotaxis.services.photographs import TestFrames
from fotaxis.services.pictures import AT_WORK, MERGING, STUDYING, Pictures
from fotaxis.services.ports import Blobs, Lane, News
from fotaxis.services.reckoning import Reckoning
from fotaxis.services.saves import Saves
from fotaxis.services.screens import LAYERS, PICTURE, ScreenMaker, Screens
from fotaxis.services.series import Series
from fotaxis.services.shots import Shots
from fotaxis.services.studies import STUDY, Studies, StudyMaker
from fotaxis.services.studio import Studio
from fotaxis.services.turns import Turns
from fotaxis.services.view_links import ViewLinks
from fotaxis.services.watch import Watch
from fotaxis.services.work import Maker, Worker
from fotaxis.storage.blobs import SqlBlobs, StoreBlobs
from fotaxis.storage.database import SqlDatabase, Unreachable, migrate
from fotaxis.storage.news import SqlNews
from fotaxis.supervisor import Supervisor, ends_with_us
from fotaxis.web.app import create_app
from fotaxis.web.auth import Services

HEALTH_STATEMENT_MS = 700


class DatabaseSettings(BaseSettings):
    """What everything needs: FOTAXIS_DATABASE_URL, and FOTAXIS_STORE where photographs and finals lie outside the database."""

    model_config = SettingsConfigDict(env_prefix="FOTAXIS_")

    database_url: str
    store: str = ""


class Settings(DatabaseSettings):
    """What a server needs besides: FOTAXIS_SECRET, FOTAXIS_HOST, FOTAXIS_PORT, FOTAXIS_HTTPS_ONLY, FOTAXIS_TRUSTED_PROXIES."""

    secret: str = Field(min_length=32)
    host: str = "127.0.0.1"
    port: int = Field(default=8450, ge=1, le=65535)
    https_only: bool = True
    trusted_proxies: str = ""


class FinalFiles:
    """services.ports.FinalWriter by formats.picture_files."""

    png = staticmethod(picture_files.png)
    exr = staticmethod(picture_files.exr)


class LayerFiles:
    """services.screens.LayersFile by formats.layers_file."""

    write = staticmethod(layers_file.write)
    read = staticmethod(layers_file.read)


def clock() -> datetime:
    """The present, with its zone."""
    return datetime.now(UTC)


def make_blobs(database: SqlDatabase, store: str) -> Blobs:
    """Where bytes lie. Raises ValueError, in words, for an odd address."""
    return StoreBlobs(store, before=SqlBlobs(database)) if store else SqlBlobs(database)


def make_services(
    database: SqlDatabase, *, blobs: Blobs | None = None, news: News | None = None, secret: str = "",
    watched: SqlDatabase | None = None,
) -> Services:  # fmt: skip
    """All services over one database. watched: the same database with short time limits, for whoever asks how it is."""
    readiness = Readiness(cache_folder())
    codec, pictures, turns = JsonShots(), Pictures(), Turns(not_ready=readiness.words)
    blobs = blobs or SqlBlobs(database)
    passwords = PasswordHash((Argon2Hasher(),))
    factors = Factors(database, OneTimeCodes(), WebKeys(), clock)
    shots, merges = Shots(database, codec, clock), Merges(database, blobs)
    frames = TestFrames(database, blobs, photo.read, photo.WorkingPictures())
    return Services(
        accounts=Accounts(database, passwords, clock, factors),
        factors=factors,
        staff=Staff(database, passwords, clock),
        studio=Studio(database, blobs, clock),
        jobs=Jobs(database, clock),
        kit=Kit(database),
        briefs=Briefs(database),
        shots=shots,
        pictures=pictures,
        screens=Screens(database, clock, pictures, codec, LayerFiles()),
        studies=Studies(database, clock),
        turns=turns,
        not_ready=readiness.words,
        frames=frames,
        finals=Finals(database, blobs, clock),
        merges=merges,
        shooting=Shooting(database, codec, clock),
        whole_shots=WholeShots(shots, frames, merges, codec, pictures, WholeShotFiles()),
        series=Series(database, shots, codec, pictures),
        reckoning=Reckoning(shots, codec),
        book=Book(database, codec),
        view_links=ViewLinks(database, clock),
        saves=Saves(database),
        watch=Watch(watched or database, turns, clock),
        news=news or SqlNews(database.url),
        codec=codec,
        set_up_code=set_up_code(secret),
    )


def make_app(settings: Settings) -> FastAPI:
    """Migrated database, services and web application from settings."""
    migrate(settings.database_url)
    database = SqlDatabase(settings.database_url)
    watched = SqlDatabase(settings.database_url, pool_size=1, statement_ms=HEALTH_STATEMENT_MS)
    news = SqlNews(settings.database_url)
    services = make_services(
        database, blobs=make_blobs(database, settings.store), news=news, secret=settings.secret, watched=watched
    )
    app = create_app(services, secret=settings.secret, https_only=settings.https_only)

    def close() -> None:
        services.turns.close()
        news.close()
        watched.close()
        database.close()

    app.state.close = close
    return app


def served() -> FastAPI:
    """What each of several server processes serves, from the environment."""
    _quiet_logs()
    return make_app(Settings())  # type: ignore[call-arg]  # values come from the environment


def make_worker(database: SqlDatabase, news: News, blobs: Blobs, lane: Lane, *, name: str = "") -> Worker:
    """A worker of one lane: for screens, or for finals."""
    codec = JsonShots()
    makers: dict[str, Maker] = {}
    if lane is Lane.SCREEN:
        pictures = Pictures(AT_WORK)
        screens = ScreenMaker(database, codec, pictures, LayerFiles(), picture_files.png, clock)
        makers, sweep = {LAYERS: screens, PICTURE: screens}, screens.thin
    else:
        makers = {
            FINAL: FinalMaker(database, blobs, codec, FinalFiles()), STUDY: StudyMaker(database, codec, Pictures(STUDYING), clock),
            MERGE: MergeMaker(database, blobs, codec, Pictures(MERGING), JoinedFiles()),
        }  # fmt: skip
        sweep = Studio(database, blobs, clock).sweep
    name = name or f"{socket.gethostname()[:40]}-{os.getpid()}-{uuid4().hex[:6]}"
    return Worker(database, news, makers, lane=lane, name=name, clock=clock, sweep=sweep, after=give_memory_back)


def give_memory_back() -> None:
    """What one picture has left free goes back to the machine: the C library would keep it for the next."""
    with suppress(OSError, AttributeError):  # where there is another one
        ctypes.CDLL("libc.so.6").malloc_trim(0)


def warm_up() -> None:
    """Wait until the kernels are compiled, and load them with a tiny picture: once loading has begun, nothing can call it off."""
    readiness = Readiness(cache_folder())
    while not readiness.ready:
        time.sleep(1.0)
    example = Path(__file__).parent / "demo" / "gooseberry-with-glass.json"
    Pictures(AT_WORK).fine(shot_file.read(example.read_bytes()).plan(), long_side=60)


def run_worker(lane: str) -> int:
    """Make pictures for any server on the same database until stopped; several may run, on several machines."""
    try:
        settings = DatabaseSettings()  # type: ignore[call-arg]  # the values come from the environment
        migrate(settings.database_url)
        database = SqlDatabase(settings.database_url, pool_size=3)
        blobs = make_blobs(database, settings.store)
    except ValidationError:
        print("FOTAXIS_DATABASE_URL: the address of the servers' database is needed. See docs/running.md.", file=sys.stderr)
        return 2
    except (Unreachable, ValueError) as error:
        print(error, file=sys.stderr)
        return 1
    if lane == "both":
        commands = {each.value: [sys.executable, "-m", "fotaxis.main", "worker", "--for", each.value] for each in Lane}
        return Supervisor(commands, quiet=False).run()
    words = {"screen": "pictures for screens and sheets", "final": "final pictures"}[lane]
    print(f"Worker: making {words}. Ctrl+C stops it; what it was making is then made by another.", flush=True)
    warm_up()
    worker = make_worker(database, SqlNews(settings.database_url), blobs, Lane(lane))

    def stop(*_: object) -> None:
        worker.stop()

    signal.signal(signal.SIGINT, stop)
    signal.signal(signal.SIGTERM, stop)
    worker.run()
    return 0


def run_care(args: argparse.Namespace) -> int:
    """People, backup, restore."""
    try:
        settings = DatabaseSettings()  # type: ignore[call-arg]  # the values come from the environment
        if args.mode != "restore":
            migrate(settings.database_url)
        database = SqlDatabase(settings.database_url, pool_size=2)
        if args.mode == "people":
            services = make_services(database)
            return people.run(args, services.staff, services.accounts)
        apart = make_blobs(database, settings.store) if settings.store else None
        where = os.environ.get("FOTAXIS_POSTGRES_BIN", "")
        if args.mode == "backup":
            with database.transaction() as repo:
                keys = repo.blob_keys()
            count = backup.backup(settings.database_url, keys, apart, args.file, bin_folder=where)
            print(
                f"{args.file}: the database{f' and {count} objects' if apart else ''}, {args.file.stat().st_size / 1e6:.1f} MB."
            )
        else:
            count = backup.restore(settings.database_url, apart, args.file, over=args.over, bin_folder=where)
            migrate(settings.database_url)
            print(f"Everything is back{f', with {count} objects' if apart else ''}. Start the servers and workers.")
    except ValidationError:
        print("FOTAXIS_DATABASE_URL: the address of the servers' database is needed. See docs/running.md.", file=sys.stderr)
        return 2
    except (Unreachable, ValueError, backup.CannotDo) as error:
        print(error, file=sys.stderr)
        return 2
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


def _quiet_logs() -> None:
    logging.basicConfig(level=logging.INFO, format="%(levelname)s %(name)s: %(message)s")
    logging.getLogger("alembic").setLevel(logging.WARNING)


def _settings() -> Settings | None:
    """From the environment; None where something is missing, which was said."""
    try:
        return Settings()  # type: ignore[call-arg]  # values come from the environment
    except ValidationError as error:
        for fault in error.errors():
            name = "FOTAXIS_" + "_".join(str(step) for step in fault["loc"]).upper()
            print(f"{name}: {fault_words(fault)}. See docs/running.md.", file=sys.stderr)
        return None


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="fotaxis.main", description="Run Fotaxis.")
    modes = parser.add_subparsers(dest="mode", required=True)
    serve = modes.add_parser("serve", help="start the server")
    serve.add_argument("--workers", type=int, default=1, metavar="N", help="server processes on this machine (default 1)")
    modes.add_parser("demo", help="start the server with demo data, and workers beside it")
    worker = modes.add_parser("worker", help="make pictures for the servers on the same database")
    people.add_arguments(modes.add_parser("people", help="who may sign in; new passwords, owners, another studio"))
    keep = modes.add_parser("backup", help="write everything to one file")
    keep.add_argument("file", type=Path)
    back = modes.add_parser("restore", help="bring everything back from such a file")
    back.add_argument("file", type=Path)
    back.add_argument("--over", action="store_true", help="in place of what is there now")
    worker.add_argument(
        "--for", dest="lane", choices=["screen", "final", "both"], default="both", help="which pictures (default both)"
    )
    return parser


def main(arguments: list[str] | None = None) -> int:
    """Start what was asked for; `demo` loads demo data first and prints how to sign in."""
    args = _parser().parse_args(arguments)
    _quiet_logs()
    if args.mode == "worker":
        return run_worker(args.lane)
    if args.mode in ("people", "backup", "restore"):
        return run_care(args)
    settings = _settings()
    if settings is None:
        return 2
    if not port_is_free(settings.host, settings.port):
        print(
            f"Port {settings.port} is taken, perhaps by another Fotaxis. Stop it, or choose another with FOTAXIS_PORT.",
            file=sys.stderr,
        )
        return 1
    try:
        app = make_app(settings)
        needs_owner = app.state.services.accounts.needs_owner()
    except (Unreachable, ValueError) as error:
        print(error, file=sys.stderr)
        return 1
    if args.mode == "demo":
        from fotaxis.demo.scenario import LOGIN, PASSWORD, load

        _when_ready(load(app.state.services, Path(__file__).parent / "demo"))
        print(f"\n  Fotaxis is ready:  http://{settings.host}:{settings.port}/", flush=True)
        print(f"  Sign in as         {LOGIN}\n  with password      {PASSWORD}\n\n  Ctrl+C stops everything.\n", flush=True)
    elif needs_owner:
        print(
            f"\n  This installation has no owner yet. Open the page and give this set-up code:  {app.state.services.set_up_code}\n",
            flush=True,
        )
    processes = getattr(args, "workers", 1)
    options: dict[str, Any] = {
        "host": settings.host, "port": settings.port, "log_level": "warning", "ws_per_message_deflate": False,
        "timeout_graceful_shutdown": 2, "ws_max_size": 100_000, "proxy_headers": bool(settings.trusted_proxies),
        "forwarded_allow_ips": settings.trusted_proxies or None, "access_log": False, "limit_concurrency": 2000,
    }  # fmt: skip
    beside = _demo_workers() if args.mode == "demo" else None
    try:
        if processes > 1:
            app.state.close()
            uvicorn.run("fotaxis.main:served", factory=True, workers=processes, **options)
        else:
            uvicorn.run(app, **options)
            app.state.close()
    finally:
        if beside is not None:
            beside.stop()
    return 0


def _when_ready(work: Callable[[], None]) -> None:
    """Do what needs the kernels: now, or beside the server once they are compiled."""
    readiness = Readiness(cache_folder())
    if readiness.ready:
        work()
        return

    def later() -> None:
        while not readiness.ready:
            time.sleep(1.0)
        work()

    threading.Thread(target=later, name="demo-frames", daemon=True).start()


def _demo_workers() -> Supervisor:
    """Workers beside the demo's server, begun again when they die."""
    command = ends_with_us([sys.executable, "-m", "fotaxis.main", "worker", "--for"])
    made = Supervisor({lane.value: [*command, lane.value] for lane in Lane}, quiet=True)
    made.start()
    return made


if __name__ == "__main__":
    sys.exit(main())
