"""What is removed waits and comes back; after the grace period it is gone for good, and its bytes with it. Limits hold."""

from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import text

from fotaxis.main import make_services
from fotaxis.services.ports import NotFound, Refused
from fotaxis.services.studio import GRACE
from fotaxis.storage.blobs import StoreBlobs
from fotaxis.storage.database import SqlDatabase, migrate
from fotaxis.storage.news import SqlNews
from tests.formats import samples


class Clock:
    now = datetime(2026, 5, 1, tzinfo=UTC)

    def __call__(self):
        return self.now


@pytest.fixture
def all_(database_url):
    migrate(database_url)
    database, news = SqlDatabase(database_url, pool_size=3), SqlNews(database_url)
    made = make_services(database, blobs=StoreBlobs("memory:///"), news=news)
    clock = Clock()
    for part in (made.jobs, made.shots, made.studio, made.staff, made.accounts):
        part._clock = clock
    made.accounts.clock_by_hand = clock
    yield made
    news.close()
    database.close()


@pytest.fixture
def owner(all_):
    owner.number = getattr(owner, "number", 0) + 1
    login = f"o{owner.number}@test.example"
    return all_.accounts.create_studio(studio_name="North", login=login, name="N", password="long enough a word")


def new_shot(all_, studio, job=None):
    job = job or all_.jobs.create(studio, name="Range").id
    return all_.shots.import_file(studio, job, (samples.DEMO / "elder-cordial.json").read_bytes())


def rows(all_, table, column, value):
    with all_.accounts._database.transaction() as repo:
        return repo._s.scalar(text(f"select count(*) from {table} where {column} = :value"), {"value": value})


def test_a_removed_shot_is_out_of_sight_and_comes_back_whole(all_, owner):
    studio = owner.studio_id
    shot = new_shot(all_, studio)
    frame = all_.frames.attach(studio, shot.id, file_name="a.png", data=samples.encoded("PNG"), note="n")
    token = all_.view_links.make(studio, shot.id)
    all_.shots.remove(studio, shot.id)
    for reached in (
        lambda: all_.shots.open(studio, shot.id), lambda: all_.frames.get(studio, frame.id), lambda: all_.view_links.shot_of(token),
        lambda: all_.shots.remove(studio, shot.id), lambda: all_.finals.ask(studio, shot.id, long_side=300),
    ):  # fmt: skip
        with pytest.raises(NotFound):
            reached()
    assert all_.shots.in_job(studio, shot.job_id) == []
    assert [s.id for s in all_.shots.removed(studio)] == [shot.id]
    assert all_.studio.usage(studio).photo_bytes == len(samples.encoded("PNG"))  # kept, and counted
    all_.shots.bring_back(studio, shot.id)
    assert all_.frames.original(studio, frame.id)[1] == samples.encoded("PNG")
    with pytest.raises(NotFound):
        all_.view_links.shot_of(token)  # links do not come back


def test_after_the_grace_period_it_is_gone_for_good_with_its_bytes(all_, owner):
    studio, clock = owner.studio_id, all_.accounts.clock_by_hand
    clock.now = datetime.now(UTC)
    shot, kept = new_shot(all_, studio), new_shot(all_, studio)
    frame = all_.frames.attach(studio, shot.id, file_name="a.png", data=samples.encoded("PNG"), note="")
    all_.jobs.remove(studio, shot.job_id)
    with pytest.raises(NotFound):
        all_.shots.open(studio, shot.id)
    clock.now += GRACE - timedelta(hours=1)
    all_.studio.sweep()
    assert rows(all_, "shots", "id", shot.id) == 1
    clock.now += timedelta(hours=2)
    all_.studio.sweep()
    for table in ("revisions", "frames", "events"):
        assert rows(all_, table, "shot_id", shot.id) == 0, table
    assert rows(all_, "jobs", "id", shot.job_id) == 0
    with pytest.raises(NotFound):
        all_.frames._blobs.get(f"frames/{frame.id}/file")
    with pytest.raises(NotFound):
        all_.jobs.bring_back(studio, shot.job_id)
    assert all_.shots.open(studio, kept.id).shot.name == kept.name


def test_a_removed_studio_goes_whole_and_others_stay(all_, owner):
    clock = all_.accounts.clock_by_hand
    clock.now = datetime.now(UTC)
    other = all_.accounts.create_studio(
        studio_name="East", login="east@test.example", name="E", password="long enough a word"
    )
    mine, theirs = new_shot(all_, owner.studio_id), new_shot(all_, other.studio_id)
    all_.frames.attach(owner.studio_id, mine.id, file_name="a.png", data=samples.encoded("PNG"), note="")
    all_.finals.ask(owner.studio_id, mine.id, long_side=300)
    all_.studio.remove(owner.studio_id, typed_name="North", name="North")
    clock.now += GRACE + timedelta(hours=1)
    all_.studio.sweep()
    assert rows(all_, "studios", "id", owner.studio_id) == 0
    for table in ("users", "jobs", "shots", "revisions", "frames", "finals", "work", "events"):
        assert rows(all_, table, "studio_id", owner.studio_id) == 0, table
    assert all_.shots.open(other.studio_id, theirs.id).shot.name == theirs.name


def test_when_states_are_full_the_oldest_unpinned_ones_go_and_undo_still_works(all_, owner):
    from fotaxis.services.changes import Change

    studio = owner.studio_id
    shot = new_shot(all_, studio)
    all_.studio.set_limits(studio, photo_gb=1, final_gb=1, states=60)
    for i in range(110):
        change = Change(kind="set", path=("exposure", "iso"), value=101.0 + i)
        all_.shots.change(studio, shot.id, changes=[change], label=f"ISO {i}")
        if i == 3:
            all_.shots.pin(studio, shot.id, number=4, name="keep me")
    states = all_.shots.states(studio, shot.id)
    numbers = [s.number for s in states]
    assert 50 <= len(numbers) <= 85
    assert {1, 4, 111} <= set(numbers)  # the first, the pinned, the present
    assert all(s.parent is None or s.parent in numbers for s in states)
    for _ in range(len(numbers) - 1):
        all_.shots.undo(studio, shot.id)
    assert all_.shots.open(studio, shot.id).shot.revision == 1
    assert any("were let go" in event.words for event in all_.studio.history(studio, shot_id=shot.id))


def test_finals_stop_at_their_limit(all_, owner):
    studio = owner.studio_id
    shot = new_shot(all_, studio)
    final = all_.finals.ask(studio, shot.id, long_side=300)
    with all_.accounts._database.transaction() as repo:
        repo.size_final(studio, final.id, size_bytes=2_000_000_000)
    all_.studio.set_limits(studio, photo_gb=1, final_gb=1, states=100)
    with pytest.raises(Refused, match="all it may"):
        all_.finals.ask(studio, shot.id, long_side=300)
