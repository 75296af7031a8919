"""Final pictures by workers: made, told of, called off, and finished by another when a worker is killed."""

import io
import os
import signal
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from uuid import uuid4

import numpy as np
import OpenEXR
import psutil
import pytest
from PIL import Image
from pytest import approx
from sqlalchemy import text

import fotaxis.demo
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.main import FinalFiles, clock, make_services, make_worker
from fotaxis.services.finals import FinalMaker, seconds_left
from fotaxis.services.ports import FinalState, Lane, NotFound, Refused, Work
from fotaxis.services.work import MOST_ATTEMPTS
from fotaxis.storage.blobs import SqlBlobs
from fotaxis.storage.database import SqlDatabase, migrate
from fotaxis.storage.news import SqlNews
from fotaxis.supervisor import ends_with_us
from tests.conftest import new_database, running_postgres

SHOT = Path(fotaxis.demo.__file__).parent / "elder-cordial.json"


class Studio:
    """A studio with one shot over a database."""

    def __init__(self, url, name="s"):
        migrate(url)
        self.url = url
        self.database, self.news = SqlDatabase(url), SqlNews(url)
        self.blobs = SqlBlobs(self.database)
        self.services = make_services(self.database, news=self.news)
        with self.database.transaction() as repo:
            owner = repo.add_owner(studio_name=name, login=f"{name}@test.example", name=name, password_hash="x")
        self.id = owner.studio_id
        job = self.services.jobs.create(self.id, name="Job")
        self.shot = self.services.shots.import_file(self.id, job.id, SHOT.read_bytes()).id

    def close(self):
        self.news.close()
        self.database.close()

    def ask(self, side):
        return self.services.finals.ask(self.id, self.shot, long_side=side).id

    def final(self, final_id):
        return next(f for f in self.services.finals.of_shot(self.id, self.shot) if f.id == final_id)

    def worker(self):
        environment = os.environ | {"FOTAXIS_DATABASE_URL": self.url}
        return subprocess.Popen(
            ends_with_us([sys.executable, "-m", "fotaxis.main", "worker", "--for", "final"]),
            env=environment,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )

    def until(self, final_id, condition, seconds=90):
        for _ in range(seconds * 10):
            if condition(self.final(final_id)):
                return self.final(final_id)
            time.sleep(0.1)
        raise AssertionError(f"it did not happen: {self.final(final_id)}")


class StoppingPostgres:
    """A server of one's own whose processes can be stopped and let go on, as when a machine hangs."""

    def __init__(self, server):
        self.server = server

    def pause(self):
        self._signal(signal.SIGSTOP)

    def go_on(self):
        self._signal(signal.SIGCONT)

    def _signal(self, number):
        process = psutil.Process(self.server._process.pid)
        for each in [*process.children(recursive=True), process]:
            each.send_signal(number)


@pytest.fixture
def postgres_that_stops():
    with running_postgres() as server:
        stopping = StoppingPostgres(server)
        yield stopping, new_database(server)
        stopping.go_on()


@pytest.fixture(scope="module")
def studio(database_url):
    made = Studio(database_url)
    yield made
    made.close()


def work_off(studio, makers=None):
    """Make what waits; in a thread of its own, since a browser test may have left an event loop in this one."""
    worker = make_worker(studio.database, studio.news, studio.blobs, Lane.FINAL)
    if makers:
        worker._makers = makers
    with ThreadPoolExecutor() as beside:
        beside.submit(worker.run, until_empty=True).result()


def test_a_final_is_made_and_its_layers_add_up(studio):
    final = studio.ask(200)
    with pytest.raises(NotFound):
        studio.services.finals.file(studio.id, final, "png")
    work_off(studio)
    assert studio.final(final).state is FinalState.DONE
    picture = np.asarray(Image.open(io.BytesIO(studio.services.finals.file(studio.id, final, "png")[1])))
    assert picture.shape == (200, 160, 3)
    assert picture.std() > 5
    exr = studio.services.finals.file(studio.id, final, "exr")[1]
    with OpenEXR.File(io.BytesIO(exr)) as file:
        channels = {name: channel.pixels for name, channel in file.channels().items()}
    layers = [pixels for name, pixels in channels.items() if name not in ("RGB", "R", "G", "B")]
    assert len(layers) > 2


def test_a_worker_that_is_killed_is_followed_by_another(studio):
    final = studio.ask(800)
    first = studio.worker()
    begun = studio.until(final, lambda f: f.state is FinalState.WORKING and f.done > 0.01)
    os.kill(first.pid, signal.SIGKILL)
    first.wait()
    assert begun.open
    second = studio.worker()
    try:
        done = studio.until(final, lambda f: not f.open, seconds=180)
    finally:
        second.kill()
        second.wait()
    assert done.state is FinalState.DONE
    assert done.began_at > begun.began_at  # made from the start
    assert studio.services.finals.file(studio.id, final, "png")[1][:4] == b"\x89PNG"


def test_a_final_called_off_is_given_up_and_the_next_is_made(studio):
    final, following = studio.ask(800), studio.ask(200)
    worker = studio.worker()
    try:
        studio.until(final, lambda f: f.state is FinalState.WORKING and f.done > 0.01)
        studio.services.finals.cancel(studio.id, final)
        studio.until(following, lambda f: f.state is FinalState.DONE)
        assert studio.final(final).state is FinalState.CANCELLED
    finally:
        worker.terminate()
        worker.wait()
    with pytest.raises(NotFound):
        studio.services.finals.file(studio.id, final, "png")
    studio.services.finals.remove(studio.id, final)
    assert final not in [f.id for f in studio.services.finals.of_shot(studio.id, studio.shot)]


def test_making_a_final_twice_changes_nothing(studio):
    final = studio.ask(200)
    maker = FinalMaker(studio.database, studio.blobs, JsonShots(), FinalFiles())
    work = Work(id=uuid4(), studio_id=studio.id, lane=Lane.FINAL, kind="final", ref=str(final), payload={}, attempts=1)
    maker.make(work, lambda: True)
    before = studio.services.finals.file(studio.id, final, "png")[1]
    with studio.database.transaction() as repo:
        repo._s.execute(text("UPDATE finals SET state = 'working' WHERE id = :id"), {"id": final})
    maker.make(work, lambda: True)
    assert studio.services.finals.file(studio.id, final, "png")[1] == before
    work_off(studio)


class Noting:
    """A maker that notes what it is given."""

    def __init__(self, make=lambda work: None):
        self.made, self.aside, self.faults, self._make = [], [], [], make

    def make(self, work, wanted):
        self.made.append(work)
        self._make(work)

    def set_aside(self, work):
        self.aside.append(work)

    def fault(self, work, number):
        self.faults.append(number)


def test_studios_take_turns_however_many_one_has_asked_for(postgres):
    url = new_database(postgres)
    large, small = Studio(url, "large"), Studio(url, "small")
    first = [large.ask(200) for _ in range(4)]
    second = [small.ask(200) for _ in range(2)]
    waits = {f.id: f.before for f in large.services.finals.of_shot(large.id, large.shot)}
    assert [waits[i] for i in first] == [1, 3, 4, 5]  # by hand: turns L S L S L L, each told what is made before it at most
    noting = Noting()
    work_off(large, {"final": noting})
    studios = [work.studio_id for work in noting.made]
    assert studios == [large.id, small.id, large.id, small.id, large.id, large.id]
    assert [work.ref for work in noting.made if work.studio_id == small.id] == [str(i) for i in second]
    for one in (large, small):
        one.close()


def test_a_final_that_kills_its_worker_is_set_aside_and_said_so(studio):
    final = studio.ask(200)
    for _ in range(MOST_ATTEMPTS):  # claimed, and never heard of again
        with studio.database.transaction() as repo:
            assert repo.claim_work(lane=Lane.FINAL, worker="lost", now=clock(), until=clock() - timedelta(seconds=1))
    work_off(studio)
    found = studio.final(final)
    assert found.state is FinalState.FAILED
    assert "ended its worker 3 times and was set aside" in found.problem


def test_any_exception_fails_the_final_with_a_sentence_and_a_number_of_the_log(studio, monkeypatch, caplog):
    final = studio.ask(200)
    monkeypatch.setattr(FinalFiles, "png", staticmethod(lambda picture: 1 / 0))
    work_off(studio)
    found = studio.final(final)
    assert found.state is FinalState.FAILED
    number = found.problem.split("fault ")[1].split(";")[0].split(".")[0]
    assert number in caplog.text
    assert "ZeroDivisionError" not in found.problem


def test_a_final_and_its_place_in_the_queue_are_kept_together_or_not_at_all(studio, monkeypatch):
    def fails(self, *args, **more):
        raise RuntimeError("between the two")

    before = len(studio.services.finals.of_shot(studio.id, studio.shot))
    monkeypatch.setattr("fotaxis.storage.picture_rows.WorkTables.add_work", fails)
    with pytest.raises(RuntimeError):
        studio.ask(200)
    assert len(studio.services.finals.of_shot(studio.id, studio.shot)) == before


def test_time_left_is_honest(studio):
    final = studio.ask(1000)
    waiting = studio.final(final)
    assert seconds_left(waiting, pace=20.0) == 20.0  # by hand: a million pixels of long side squared, none before it
    assert seconds_left(waiting) is None
    begun = replace(waiting, state=FinalState.WORKING, began_at=datetime(2026, 1, 1, tzinfo=UTC), done=0.5)
    now = datetime(2026, 1, 1, 0, 0, 30, tzinfo=UTC)
    assert seconds_left(begun, now=now) == 30
    assert seconds_left(begun, now=now, pace=20.0) == approx(0.5 * 30 + 0.5 * 10)
    just = replace(begun, done=0.0)
    assert seconds_left(just, now=now, pace=100.0) == 70
    studio.services.finals.cancel(studio.id, final)


def test_a_worker_goes_on_when_the_database_comes_back(postgres_that_stops):
    server, url = postgres_that_stops
    studio = Studio(url, "away")
    worker = studio.worker()
    try:
        first = studio.ask(200)
        studio.until(first, lambda f: f.state is FinalState.DONE)
        server.pause()
        time.sleep(6)
        server.go_on()
        second = studio.ask(200)
        studio.until(second, lambda f: f.state is FinalState.DONE, seconds=60)
        assert worker.poll() is None
    finally:
        worker.terminate()
        worker.wait(20)
        studio.close()


def test_a_shot_that_cannot_be_drawn_fails_in_words(studio):
    final = studio.ask(200)
    with studio.database.transaction() as repo:
        repo._s.execute(text("UPDATE revisions SET document = jsonb_set(document, '{camera,distance_cm}', '1')"))
    work_off(studio)
    failed = studio.final(final)
    assert failed.state is FinalState.FAILED
    assert "camera" in failed.problem


def test_what_cannot_be_made_is_refused(studio):
    with pytest.raises(Refused, match="200 to 1600"):
        studio.ask(4000)
    asked = [studio.ask(200) for _ in range(6)]
    with pytest.raises(Refused, match="wait for one"):
        studio.ask(200)
    for final in asked:
        studio.services.finals.cancel(studio.id, final)


def test_a_worker_without_a_database_says_what_is_missing(monkeypatch):
    environment = {name: value for name, value in os.environ.items() if name != "FOTAXIS_DATABASE_URL"}
    told = subprocess.run(
        [sys.executable, "-m", "fotaxis.main", "worker"],
        env=environment,
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )
    assert told.returncode == 2
    assert "FOTAXIS_DATABASE_URL" in told.stderr
