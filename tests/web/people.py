"""Signed-in people of made-up studios, and what they own."""

import re
from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import select
from starlette.testclient import TestClient

from fotaxis.services.finals import blob_key
from fotaxis.services.ports import FinalState, Role
from fotaxis.storage.tables import FinalRow, MergeRow
from tests.formats import samples

PASSWORD = "a long enough password"


@dataclass
class Person:
    """A browser with a session; `ask` sends what the page would send."""

    client: TestClient
    token: str
    login: str = ""

    @classmethod
    def of_new_studio(cls, app, name):
        """Add a studio with its owner straight to the database: pages only ever make the first one."""
        accounts = app.state.services.accounts
        hashed = accounts._passwords.hash(PASSWORD)
        with accounts._database.transaction() as repo:
            repo.add_owner(studio_name=f"Studio {name}", login=f"{name}@test.example", name=name, password_hash=hashed)
        return cls.signing_in(app, f"{name}@test.example", PASSWORD)

    def colleague(self, app, name, role):
        """Somebody else of the same studio."""
        accounts = app.state.services.accounts
        hashed = accounts._passwords.hash(PASSWORD)
        with accounts._database.transaction() as repo:
            studio = repo.user_by_login(self.login).studio_id
            repo.add_person(studio, login=f"{name}@test.example", name=name, role=Role(role), password_hash=hashed)
        return self.signing_in(app, f"{name}@test.example", PASSWORD)

    @classmethod
    def signing_in(cls, app, login, password):
        client = TestClient(app, base_url="http://fotaxis.test", follow_redirects=False, raise_server_exceptions=False)
        answer = client.post("/sign-in", data={"login": login, "password": password})
        assert answer.status_code == 303, answer.text
        page = client.get("/jobs").text
        return cls(client, re.search(r'X-CSRF-Token": "([^"]+)"', page).group(1), login)

    def ask(self, method, path, *, json=True, **content):
        headers = {"x-csrf-token": self.token, **content.pop("headers", {})}
        if json:
            headers.setdefault("accept", "application/json")
        return self.client.request(method, path, headers=headers, **content)

    def post(self, path, **content):
        return self.ask("POST", path, **content)

    def get(self, path, **content):
        return self.ask("GET", path, **content)

    # what they own

    def new_job(self, name="Winter range"):
        return made(self.post("/jobs", data={"name": name}))

    def new_shot(self, job=None, start="bottle"):
        return made(self.post(f"/jobs/{job or self.new_job()}/shots", data={"name": "Bottle", "start": start}))

    def new_frame(self, shot):
        file = {"file": ("frame.png", samples.encoded("PNG"), "image/png")}
        return made(self.post(f"/shots/{shot}/frames", files=file, data={"note": "first"}))

    def new_final(self, shot):
        """A finished picture, as a worker would leave it."""
        assert self.post(f"/shots/{shot}/finals", data={"side": 200}).status_code == 204
        finals = self.client.app.state.services.finals
        with finals._database.transaction() as repo:
            final = repo._s.scalars(select(FinalRow).where(FinalRow.shot_id == UUID(shot))).first()
            repo.drop_work(final.studio_id, kind="final", ref=str(final.id))
            repo.mark_final(final.studio_id, final.id, state=FinalState.DONE, done=1.0)
        finals._blobs.put(blob_key(final.id, "png"), samples.encoded("PNG"))
        finals._blobs.put(blob_key(final.id, "exr"), b"layers")
        return str(final.id)

    def new_merge(self, shot):
        """A finished merge, as a worker would leave it. A frame must be given to a capture."""
        assert self.post(f"/shots/{shot}/merges", data={}).status_code == 204
        merges = self.client.app.state.services.merges
        with merges._database.transaction() as repo:
            merge = repo._s.scalars(select(MergeRow).where(MergeRow.shot_id == UUID(shot))).first()
            repo.drop_work(merge.studio_id, kind="merge", ref=str(merge.id))
            repo.mark_merge(merge.studio_id, merge.id, state=FinalState.DONE, done=1.0, files={"tif": 3, "jpg": 3})
        for kind in ("tif", "jpg"):
            merges._blobs.put(f"merges/{merge.id}/{kind}", samples.encoded("JPEG"))
        return str(merge.id)

    def document(self, shot):
        return self.get(f"/shots/{shot}/export").json()


def made(answer):
    """The id of what was just made, from the address the page is sent to."""
    assert answer.status_code == 204, answer.text
    return answer.headers["hx-redirect"].rsplit("/", 1)[-1]
