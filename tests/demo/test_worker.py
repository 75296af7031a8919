"""Final pictures by workers: made, told of, called off, and finished by another when a worker is killed."""

import io
import os
import signal
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import OpenEXR
import pytest
from PIL import Image
from sqlalchemy import text

import fotaxis.demo
from fotaxis.main import FinalFiles, JsonShots, final_maker, make_services
from fotaxis.services.finals import FinalMaker
from fotaxis.services.ports import FinalState, NotFound, Refused
from fotaxis.storage.database import SqlDatabase, migrate
from fotaxis.storage.final_queue import SqlFinalQueue, work

SHOT = Path(fotaxis.demo.__file__).parent / "elder-cordial.json"


class Studio:
    """A studio with one shot over a database of its own."""

    def __init__(self, url):
        migrate(url)
        self.url = url
        self.database, self.queue = SqlDatabase(url), SqlFinalQueue(url)
        self.services = make_services(self.database, self.queue)
        with self.database.transaction() as repo:
            self.id = repo.add_owner(studio_name="S", login="s@test.example", name="S", password_hash="x").studio_id
        job = self.services.jobs.create(self.id, name="Job")
        self.shot = self.services.shots.import_file(self.id, job.id, SHOT.read_bytes()).id

    def ask(self, side):
        return self.services.finals.ask(self.id, self.shot, long_side=side).id

    def final(self, final_id):
        return next(f for f in self.services.finals.of_shot(self.id, self.shot) if f.id == final_id)

    def worker(self):
        environment = os.environ | {"FOTAXIS_DATABASE_URL": self.url}
        return subprocess.Popen(
            [sys.executable, "-m", "fotaxis.main", "worker"],
            env=environment,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
        )

    def until(self, final_id, condition, seconds=90):
        for _ in range(seconds * 10):
            if condition(self.final(final_id)):
                return self.final(final_id)
            time.sleep(0.1)
        raise AssertionError(f"it did not happen: {self.final(final_id)}")


@pytest.fixture(scope="module")
def studio(database_url):
    made = Studio(database_url)
    yield made
    made.queue.close()
    made.database.close()


def work_off(studio, make):
    """Make what is in the queue; in a thread of its own, since a browser test may have left an event loop in this one."""
    with ThreadPoolExecutor() as beside:
        beside.submit(work, studio.url, make, wait=False).result()


def test_a_final_is_made_and_its_layers_add_up(studio):
    final = studio.ask(200)
    with pytest.raises(NotFound):
        studio.services.finals.file(studio.id, final, "png")
    work_off(studio, final_maker(studio.database).make)
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
    maker = FinalMaker(studio.database, JsonShots(), FinalFiles())
    maker.make(studio.id, final)
    before = studio.services.finals.file(studio.id, final, "png")[1]
    with studio.database.transaction() as repo:
        repo._s.execute(text("UPDATE finals SET state = 'working' WHERE id = :id"), {"id": final})
    maker.make(studio.id, final)
    assert studio.services.finals.file(studio.id, final, "png")[1] == before
    work_off(studio, maker.make)


def test_a_shot_that_cannot_be_drawn_fails_in_words(studio):
    final = studio.ask(200)
    with studio.database.transaction() as repo:
        repo._s.execute(text("UPDATE revisions SET document = jsonb_set(document, '{camera,distance_cm}', '1')"))
    work_off(studio, final_maker(studio.database).make)
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
