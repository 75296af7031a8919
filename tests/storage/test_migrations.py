"""A database of an earlier schema keeps everything when it is brought to this one."""

from __future__ import annotations

import json
from pathlib import Path
from uuid import uuid4

from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, text

import fotaxis.storage
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.main import clock
from fotaxis.services.shots import Shots
from fotaxis.storage.database import SqlDatabase, migrate, sqlalchemy_url
from tests.conftest import new_database
from tests.formats import samples


def brought_to(url, revision):
    config = Config()
    config.set_main_option("script_location", str(Path(fotaxis.storage.__file__).parent / "migrations"))
    config.attributes["url"] = sqlalchemy_url(url)
    command.upgrade(config, revision)


def test_states_of_before_have_parents_and_undo_goes_through_them(postgres):
    url = new_database(postgres)
    brought_to(url, "0002")
    studio, job, shot = uuid4(), uuid4(), uuid4()
    document = JsonShots().check(samples.raw())
    engine = create_engine(sqlalchemy_url(url))
    with engine.begin() as there:
        there.execute(text("insert into studios values (:id, 'Old studio', now())"), {"id": studio})
        there.execute(
            text("insert into jobs (id, studio_id, name, created_at) values (:id, :studio, 'Range', now())"),
            {"id": job, "studio": studio},
        )
        there.execute(
            text(
                "insert into shots (id, studio_id, job_id, name, revision, newest_revision, created_at, updated_at) "
                "values (:id, :studio, :job, 'Bottle', 3, 3, now(), now())"
            ),
            {"id": shot, "studio": studio, "job": job},
        )
        for number in (1, 2, 3):
            document["exposure"]["iso"] = 100.0 * number
            there.execute(
                text(
                    "insert into revisions (studio_id, shot_id, number, label, document, created_at) "
                    "values (:studio, :shot, :number, :label, cast(:document as jsonb), now())"
                ),
                {
                    "studio": studio, "shot": shot, "number": number, "label": f"Step {number}",
                    "document": json.dumps(document),
                },
            )  # fmt: skip
    engine.dispose()
    migrate(url)
    database = SqlDatabase(url)
    shots = Shots(database, JsonShots(), clock)
    assert [(s.number, s.parent, s.pin) for s in shots.states(studio, shot)] == [(1, None, ""), (2, 1, ""), (3, 2, "")]
    opened = shots.open(studio, shot)
    assert (opened.document["exposure"]["iso"], opened.undo_label, opened.redo_label) == (300, "Step 3", "")
    assert shots.undo(studio, shot).document["exposure"]["iso"] == 200
    opened = shots.undo(studio, shot)
    assert (opened.document["exposure"]["iso"], opened.undo_label, opened.redo_label) == (100, "", "Step 2")
    assert shots.undo(studio, shot).document == opened.document
    assert shots.redo(studio, shot).document["exposure"]["iso"] == 200
    database.close()


def test_photographs_finals_and_the_old_queue_of_before_come_along(postgres):
    url = new_database(postgres)
    brought_to(url, "0003")
    ids = {name: uuid4() for name in ("studio", "job", "shot", "frame", "made", "waiting")}
    engine = create_engine(sqlalchemy_url(url))
    with engine.begin() as there:
        for statement in (
            "insert into studios values (:studio, 'Old studio', now())",
            "insert into users (id, studio_id, login, name, password_hash, created_at) values (:shot, :studio, 'o@x', 'O', 'h', now())",
            "insert into jobs (id, studio_id, name, created_at) values (:job, :studio, 'Range', now())",
            "insert into shots (id, studio_id, job_id, name, revision, newest_revision, created_at, updated_at) "
            "values (:shot, :studio, :job, 'Bottle', 1, 1, now(), now())",
            "insert into frames (id, studio_id, shot_id, file_name, media_type, size_bytes, width, height, note, exposure, created_at) "
            "values (:frame, :studio, :shot, 'a.png', 'image/png', 5, 1, 1, '', '{}', now())",
            "insert into frame_files values (:frame, :studio, 'bytes')",
            "insert into finals (id, studio_id, shot_id, revision, label, long_side, state, done, problem, created_at) values "
            "(:made, :studio, :shot, 1, '', 300, 'done', 1, '', now()), (:waiting, :studio, :shot, 1, '', 300, 'working', 0.5, '', now())",
            "insert into final_files values (:made, :studio, 'png', 'layers')",
            # What a package's queue had left in the database.
            "create type procrastinate_job_status as enum ('todo', 'doing')",
            "create table procrastinate_jobs (id bigserial primary key, status procrastinate_job_status)",
            "create table procrastinate_events (id bigserial, job_id bigint references procrastinate_jobs)",
            "create function procrastinate_notify() returns trigger language plpgsql as 'begin return new; end'",
            "create trigger procrastinate_trigger after insert on procrastinate_jobs for each row execute function procrastinate_notify()",
        ):
            there.execute(text(statement), ids)
    migrate(url)
    with engine.begin() as there:
        blobs = {key: bytes(data) for key, data in there.execute(text("select key, data from blobs"))}
        assert blobs == {
            f"frames/{ids['frame']}/file": b"bytes", f"finals/{ids['made']}/png": b"png", f"finals/{ids['made']}/exr": b"layers"
        }  # fmt: skip
        assert there.execute(text("select ref, lane, attempts from work")).all() == [(str(ids["waiting"]), "final", 0)]
        assert there.scalar(text("select role from users")) == "owner"
        left = "select count(*) from pg_class where relname like 'procrastinate%'"
        functions = "select count(*) from pg_proc where proname like 'procrastinate%'"
        types = "select count(*) from pg_type where typname like 'procrastinate%'"
        assert [there.scalar(text(question)) for question in (left, functions, types)] == [0, 0, 0]
    engine.dispose()
