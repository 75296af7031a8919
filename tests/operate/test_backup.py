"""Backup and restore: everything comes back, what was queued is made. And the command for people."""

import argparse
import io
import subprocess
import sys
import tarfile

import pytest

from fotaxis.main import make_services, make_worker
from fotaxis.operate import backup, people
from fotaxis.services.ports import FinalState, Lane, NotFound
from fotaxis.storage.blobs import SqlBlobs, StoreBlobs
from fotaxis.storage.database import SqlDatabase, migrate
from fotaxis.storage.news import SqlNews
from tests.conftest import new_database, postgres_programs
from tests.formats import samples


class Installation:
    """A studio with a shot, a photograph and two finals, one made, one waiting."""

    def __init__(self, url, blobs=None):
        migrate(url)
        self.url, self.database, self.news = url, SqlDatabase(url, pool_size=3), SqlNews(url)
        self.apart, self.blobs = blobs, blobs or SqlBlobs(self.database)
        self.all = make_services(self.database, blobs=self.blobs, news=self.news)

    def fill(self):
        owner = self.all.accounts.create_studio(
            studio_name="North", login="n@test.example", name="N", password="long enough a word"
        )
        self.studio = owner.studio_id
        job = self.all.jobs.create(self.studio, name="Range")
        file = (samples.DEMO / "elder-cordial.json").read_bytes()
        self.shot = self.all.shots.import_file(self.studio, job.id, file).id
        self.frame = self.all.frames.attach(
            self.studio, self.shot, file_name="a.png", data=samples.encoded("PNG"), note="n"
        ).id
        self.made = self.all.finals.ask(self.studio, self.shot, long_side=200).id
        self.work()
        self.waiting = self.all.finals.ask(self.studio, self.shot, long_side=220).id

    def work(self):
        make_worker(self.database, self.news, self.blobs, Lane.FINAL).run(until_empty=True)

    def everything(self, of):
        return (
            self.all.shots.open(of.studio, of.shot).document, self.all.frames.original(of.studio, of.frame)[1],
            self.all.frames.read(of.studio, of.frame, crop_ratio=1.0).picture.tolist(),
            self.all.finals.file(of.studio, of.made, "exr")[1],
            [(s.number, s.label, s.who) for s in self.all.shots.states(of.studio, of.shot)],
        )  # fmt: skip

    def close(self):
        self.news.close()
        self.database.close()


@pytest.fixture(params=["database", "store"])
def pair(request, postgres, tmp_path):
    def blobs(name):
        folder = tmp_path / name
        folder.mkdir()
        return StoreBlobs(f"file://{folder}") if request.param == "store" else None

    made = [Installation(new_database(postgres), blobs("first")), Installation(new_database(postgres), blobs("second"))]
    yield made
    for one in made:
        one.close()


def test_everything_comes_back_and_what_was_queued_is_made(pair, tmp_path):
    first, second = pair
    first.fill()
    file, programs = tmp_path / "all.tar", str(postgres_programs())
    with first.database.transaction() as repo:
        keys = repo.blob_keys()
    count = backup.backup(first.url, keys, first.apart, file, bin_folder=programs)
    assert count == (4 if first.apart else 0)
    with pytest.raises(backup.CannotDo, match="there already"):
        backup.backup(first.url, keys, first.apart, file, bin_folder=programs)
    with pytest.raises(backup.CannotDo, match="not empty"):
        backup.restore(second.url, second.apart, file, over=False, bin_folder=programs)
    assert backup.restore(second.url, second.apart, file, over=True, bin_folder=programs) == count
    assert second.everything(first) == first.everything(first)
    second.work()
    found = {f.id: f.state for f in second.all.finals.of_shot(first.studio, first.shot)}
    assert found == {first.made: FinalState.DONE, first.waiting: FinalState.DONE}


@pytest.mark.parametrize("data", [b"", b"no tar", None])
def test_what_is_no_backup_is_refused_in_words(data, tmp_path, postgres):
    file = tmp_path / "odd.tar"
    if data is None:
        with tarfile.open(file, "w") as tar:
            tar.addfile(tarfile.TarInfo("x"), io.BytesIO())
    else:
        file.write_bytes(data)
    with pytest.raises(backup.CannotDo, match="backup"):
        backup.restore(postgres.url, None, file, over=True)


@pytest.mark.parametrize("kind", ["database", "folder", "memory"])
def test_bytes_lie_behind_a_port(request, kind, database_url, tmp_path):
    migrate(database_url)
    database = SqlDatabase(database_url, pool_size=1)
    request.addfinalizer(database.close)
    blobs = {
        "database": lambda: SqlBlobs(database),
        "folder": lambda: StoreBlobs(f"file://{tmp_path}"),
        "memory": lambda: StoreBlobs("memory:///"),
    }[kind]()
    with pytest.raises(NotFound):
        blobs.get("frames/1/file")
    blobs.put("frames/1/file", b"\0bytes")
    assert blobs.get("frames/1/file") == b"\0bytes"
    blobs.remove("frames/1/file")
    blobs.remove("frames/1/file")
    with pytest.raises(NotFound):
        blobs.get("frames/1/file")


def test_an_odd_store_is_said_in_words():
    with pytest.raises(ValueError, match="FOTAXIS_STORE"):
        StoreBlobs("ftp://nowhere")


# fotaxis people


@pytest.fixture
def installation(database_url):
    made = Installation(database_url)
    yield made
    made.close()


def run(installation, *words, ask=lambda _: "long enough a word"):
    parser = argparse.ArgumentParser()
    people.add_arguments(parser)
    return people.run(parser.parse_args(words), installation.all.staff, installation.all.accounts, ask=ask)


def test_people_by_command(installation, capsys):
    assert run(installation, "add-studio", "--studio", "East", "--login", "e@test.example", "--name", "E") == 0
    assert run(installation, "list") == 0
    assert "East: e@test.example, E, owner" in capsys.readouterr().out
    assert run(installation, "remove", "e@test.example") == 2  # the last owner
    assert "needs an owner" in capsys.readouterr().err
    assert run(installation, "new-password", "e@test.example") == 0
    token = capsys.readouterr().out.rsplit("/", 1)[1].strip()
    installation.all.staff.set_new_password(token, password="another long one")
    assert run(installation, "make-owner", "nobody@test.example") == 2
    assert "fotaxis people list" in capsys.readouterr().err


def test_care_without_a_database_says_what_is_missing(monkeypatch):
    monkeypatch.delenv("FOTAXIS_DATABASE_URL", raising=False)
    command = [sys.executable, "-m", "fotaxis.command", "people", "list"]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 2
    assert "FOTAXIS_DATABASE_URL" in done.stderr
    assert "Traceback" not in done.stderr
