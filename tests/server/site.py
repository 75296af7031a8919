"""Real servers and workers in processes of their own, and people who ask them over real sockets."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
import time
from contextlib import contextmanager
from dataclasses import dataclass, field
from uuid import uuid4

import httpx
from websockets.sync.client import connect

from fotaxis.main import make_services
from fotaxis.storage.database import SqlDatabase, migrate
from fotaxis.supervisor import ends_with_us
from tests.conftest import free_port
from tests.formats import samples

PASSWORD = "a long enough password"
SECRET = "s" * 40


@dataclass
class Site:
    """One server address over one database; servers and workers are begun and killed as a test likes."""

    url: str
    port: int = field(default_factory=free_port)
    environment: dict = field(default_factory=dict)
    processes: dict = field(default_factory=dict)

    @property
    def address(self):
        return f"http://127.0.0.1:{self.port}"

    def begin(self, name, *arguments, port=None):
        """A process of the program, under a name."""
        environment = os.environ | {
            "FOTAXIS_DATABASE_URL": self.url, "FOTAXIS_SECRET": SECRET, "FOTAXIS_HTTPS_ONLY": "false",
            "FOTAXIS_PORT": str(port or self.port), **self.environment,
        }  # fmt: skip
        command = [sys.executable, "-m", "fotaxis.main", *arguments]
        self.processes[name] = subprocess.Popen(
            ends_with_us(command), env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, start_new_session=True
        )
        return self.processes[name]

    def serve(self, *arguments, name="server", port=None):
        process = self.begin(name, "serve", *arguments, port=port)
        address = f"http://127.0.0.1:{port or self.port}"
        for _ in range(600):
            try:
                if httpx.get(f"{address}/health", timeout=2).status_code == 200:
                    return process
            except httpx.HTTPError:
                pass
            assert process.poll() is None, process.stdout.read().decode()
            time.sleep(0.1)
        raise AssertionError("the server did not start")

    def worker(self, lane="screen", name=None):
        return self.begin(name or lane, "worker", "--for", lane)

    def end(self):
        for process in self.processes.values():
            if process.poll() is None:
                process.terminate()
        for process in self.processes.values():
            try:
                process.wait(10)
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()
            process.stdout.close()

    def said(self, name):
        """What an ended process has said."""
        return self.processes[name].stdout.read().decode()

    def new_person(self, studio):
        """Somebody of a new studio, signed in."""
        migrate(self.url)
        database = SqlDatabase(self.url, pool_size=1)
        services = make_services(database)
        login = f"{studio}-{uuid4().hex[:6]}@test.example"
        services.accounts.create_studio(studio_name=studio, login=login, name=studio, password=PASSWORD)
        database.close()
        return Asker(self, login).signed_in()


@contextmanager
def site(url, **environment):
    made = Site(url, environment=environment)
    try:
        yield made
    finally:
        made.end()


@dataclass
class Asker:
    """A person with a browser's manners."""

    site: Site
    login: str
    token: str = ""
    client: httpx.Client = field(default_factory=lambda: httpx.Client(timeout=60))

    def signed_in(self):
        answer = self.client.post(f"{self.site.address}/sign-in", data={"login": self.login, "password": PASSWORD})
        assert answer.status_code == 303, answer.text
        page = self.get("/jobs").text
        self.token = re.search(r'X-CSRF-Token": "([^"]+)"', page).group(1)
        return self

    def get(self, path, **more):
        return self.client.get(f"{self.site.address}{path}", **more)

    def post(self, path, *, key="", **more):
        headers = {"x-csrf-token": self.token, "accept": "application/json", **({"x-save-key": key} if key else {})}
        return self.client.post(f"{self.site.address}{path}", headers=headers, **more)

    def made(self, answer):
        assert answer.status_code == 204, answer.text
        return answer.headers["hx-redirect"].rsplit("/", 1)[-1]

    def new_job(self):
        return self.made(self.post("/jobs", data={"name": "Range"}))

    def new_shot(self, job=None, file="elder-cordial.json"):
        data = (samples.DEMO / file).read_bytes()
        return self.made(
            self.post(f"/jobs/{job or self.new_job()}/import", files={"file": (file, data, "application/json")})
        )

    def change(self, shot, path, value, *, key=""):
        body = {"changes": [{"path": path.split("."), "value": value}], "label": "Changed"}
        return self.post(f"/shots/{shot}/changes", key=key, json=body)

    def socket(self, shot, window="w"):
        cookie = "; ".join(f"{name}={value}" for name, value in self.client.cookies.items())
        address = f"ws://127.0.0.1:{self.site.port}/shots/{shot}/live?window={window}"
        return connect(
            address, origin=self.site.address, additional_headers={"cookie": cookie}, max_size=None, compression=None
        )


def header(data):
    """The header of a packed answer."""
    return json.loads(data[4 : 4 + int.from_bytes(data[:4], "little")])
