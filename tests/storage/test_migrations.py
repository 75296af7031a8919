"""A database of an earlier schema keeps everything when it is brought to this one."""

from __future__ import annotations

import json
from pathlib import Path
from uuid import uuid4

from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, text

import fotaxis.storage
from fotaxis.main import JsonShots, clock
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
