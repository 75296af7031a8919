"""Studies on the queue: parts go to any worker, are asked for once, and are there for everybody of the studio."""

import json

import pytest

from fotaxis.core.errors import FormatError
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.main import clock
from fotaxis.services.pictures import Pictures
from fotaxis.services.ports import Lane, Refused
from fotaxis.services.studies import PART, STUDY, Studies, StudyMaker
from fotaxis.services.work import Worker
from fotaxis.storage.database import SqlDatabase, migrate
from fotaxis.storage.news import SqlNews
from tests.formats import samples
from tests.studios import add_studio

CODEC = JsonShots()


@pytest.fixture(scope="module")
def database(database_url):
    migrate(database_url)
    with_rows = SqlDatabase(database_url, pool_size=3)
    yield with_rows
    with_rows.close()


@pytest.fixture
def news(database_url):
    listening = SqlNews(database_url)
    yield listening
    listening.close()


@pytest.fixture
def studio(database):
    with database.transaction() as repo:
        return add_studio(repo, "studies")


def small():
    document = samples.raw()
    document["readings"] = [{"kind": "spot", "key": "label", "name": "Label", "across": 0.0, "height": 0.28}]
    document["wishes"] = [{"kind": "level", "key": "level", "reading": "label", "stops": 0.0}]
    document["lights"] = document["lights"][2:]
    return CODEC.check(document)


class Counting(StudyMaker):
    """Finds at once, and counts what it was given."""

    def __init__(self, database):
        super().__init__(database, CODEC, Pictures(), clock)
        self.made = []

    def make(self, work, wanted):
        self.made.append(work.payload)
        begin = work.payload.get("begin", 0)
        found = [{"met": begin, "lack": 0.0, "values": {}}]
        self._share(work, json.dumps(found).encode(), "application/json")


def run(database, news, maker, name="worker"):
    Worker(database, news, {STUDY: maker}, lane=Lane.FINAL, name=name, clock=clock).run(until_empty=True)


def test_a_sweep_goes_to_workers_in_parts_and_its_best_are_told(database, news, studio):
    studies, maker, document = Studies(database, clock), Counting(database), small()
    key = document["lights"][0]["key"]
    asked = {"span_cm": 10, "span_deg": 5, "variants": 5 * PART - 7}
    for _ in range(2):  # asked twice, made once
        begun = studies.sweep(studio, document, key, **asked, ask=True)
    assert (begun.done, begun.parts, begun.whole) == (0, 5, False)
    others = [Counting(database), maker]
    for number, each in enumerate(others):
        run(database, news, each, f"worker-{number}")
    assert sum(len(each.made) for each in others) == 5
    assert {payload["begin"] for each in others for payload in each.made} == {PART * k for k in range(5)}
    made = studies.sweep(studio, document, key, **asked)
    assert made.whole
    assert [one["met"] for one in made.found] == [PART * k for k in range(4, -1, -1)]


def test_another_studio_and_another_set_see_nothing_of_it(database, news, studio):
    studies, document = Studies(database, clock), small()
    studies.delicate(studio, document, ask=True)
    run(database, news, Counting(database))
    assert studies.delicate(studio, document).whole
    with database.transaction() as repo:
        stranger = add_studio(repo, "another")
    assert not studies.delicate(stranger, document).whole
    moved = json.loads(json.dumps(document))
    moved["lights"][0]["place"]["x_cm"] += 1
    assert not studies.delicate(studio, moved).whole
    assert studies.delicate(studio, document | {"name": "Renamed"}).whole  # the same set under another name


def test_a_real_study_is_made_by_a_real_worker(database, news, studio):
    studies, document = Studies(database, clock), small()
    document["wishes"][0]["stops"] = -0.5
    studies.delicate(studio, document, ask=True)
    run(database, news, StudyMaker(database, CODEC, Pictures(), clock))
    found = studies.delicate(studio, document)
    assert found.whole
    assert found.found[0]["key"] == document["lights"][0]["key"]


def test_more_than_can_be_is_refused(database, studio):
    studies, document = Studies(database, clock), small()
    with pytest.raises(Refused, match="variants"):
        studies.sweep(studio, document, document["lights"][0]["key"], span_cm=1, span_deg=1, variants=10**6)
    with pytest.raises(FormatError, match="removed"):
        studies.sweep(studio, document, "gone", span_cm=1, span_deg=1, variants=3)
