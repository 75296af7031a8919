"""A long day's use in an hour: twelve people of three studios, kills, odd requests, hostile files. `./run soak [--minutes N]`.

Everything an answer acknowledged is written down; at the end it is looked for. What is printed: tried, failed, lost, doubled,
answers of 500, memory over time, and how long pages and saves took. Exit code 1 when anything was lost, doubled or 500.
"""

from __future__ import annotations

import argparse
import contextlib
import json
import os
import random
import signal
import sys
import threading
import time
from collections import Counter
from dataclasses import dataclass, field
from uuid import uuid4

import httpx
import psutil

from fotaxis.main import make_services
from fotaxis.storage.database import SqlDatabase
from tests.conftest import free_port, new_database, running_postgres
from tests.formats import samples
from tests.server.site import Asker, Site, header, site

PEOPLE, STUDIOS = 12, 3
SERVER_MB, WORKER_MB = 2000, 1500
LOOKED_AT = 6000
"""So many of the newest promised values are looked for: of a shot's states the oldest go when there are more than 5000."""


@dataclass
class Book:
    """What was tried and what was promised."""

    tried: Counter = field(default_factory=Counter)
    failed: Counter = field(default_factory=Counter)
    five_hundred: list = field(default_factory=list)
    pages: list = field(default_factory=list)
    saves: list = field(default_factory=list)
    values: list = field(default_factory=list)
    jobs: list = field(default_factory=list)
    memory: list = field(default_factory=list)
    kills: Counter = field(default_factory=Counter)
    lock: threading.Lock = field(default_factory=threading.Lock)

    def note(self, kind, status, text=""):
        with self.lock:
            self.tried[kind] += 1
            if status >= 400 or status == 0:
                self.failed[f"{kind} {status or 'no answer'}"] += 1
            if status == 500:
                self.five_hundred.append(text[:200])


class Person(threading.Thread):
    """Opens pages, changes shots, adds things, drags, asks for finals; sends a save again until it is answered."""

    def __init__(self, asker: Asker, number: int, shot: str, book: Book, ended: threading.Event) -> None:
        super().__init__(daemon=True)
        self.asker, self.number, self.own, self.book, self.ended = asker, number, shot, book, ended
        self.dice = random.Random(number)

    def run(self) -> None:
        acts = [self.page] * 4 + [self.change] * 6 + [self.add] * 2 + [self.drag] * 2 + [self.pictures, self.final]
        while not self.ended.is_set():
            try:
                self.dice.choice(acts)()
            except (httpx.HTTPError, OSError, AssertionError):
                time.sleep(0.2)
            except Exception as error:  # a socket that was killed says so in many ways
                self.book.note(f"odd {type(error).__name__}", 0)
                time.sleep(0.2)
            time.sleep(self.dice.uniform(0.02, 0.3))

    def page(self) -> None:
        began = time.monotonic()
        answer = self.asker.get(
            self.dice.choice(["/jobs", f"/shots/{self.own}", f"/shots/{self.own}/state", "/studio", "/history"])
        )
        self.book.note("page", answer.status_code, answer.text)
        if answer.status_code == 200:
            self.book.pages.append(time.monotonic() - began)

    def _until_kept(self, kind, ask):
        """As the page does: under one key, until there is an answer."""
        key, began = uuid4().hex, time.monotonic()
        for _ in range(200):
            try:
                answer = ask(key)
            except httpx.HTTPError:
                self.book.note(kind, 0)
                if self.ended.wait(0.25):
                    return None
                continue
            self.book.note(kind, answer.status_code, answer.text)
            if answer.status_code in (503, 502):
                time.sleep(0.25)
                continue
            if answer.status_code in (200, 204):
                self.book.saves.append(time.monotonic() - began)
                return answer
            return None
        return None

    def change(self) -> None:
        # What an answer told as kept must stand in a state of that number or an earlier one.
        field_ = f"lights.left.place.{'xyz'[self.number % 3]}_cm" if self.number % 2 else "room_lux"
        value = round(self.dice.uniform(20, 60), 2)
        answer = self._until_kept("save", lambda key: self.asker.change(self.own, field_, value, key=key))
        if answer is not None:
            with self.book.lock:
                self.book.values.append((self.own, field_, answer.json()["revision"], value))

    def add(self) -> None:
        name = f"Job {uuid4().hex}"
        answer = self._until_kept("add", lambda key: self.asker.post("/jobs", key=key, data={"name": name}))
        if answer is not None:
            with self.book.lock:
                self.book.jobs.append((self.asker.login, name))

    def drag(self) -> None:
        with self.asker.socket(self.own, window=f"w{self.number}") as socket:
            for seq in range(1, self.dice.randrange(5, 40)):
                change = {"path": ["lights", "left", "place", "x_cm"], "value": -40 + 0.3 * seq}
                socket.send(json.dumps({"seq": seq, "revision": 1, "changes": [change]}))
                while header(socket.recv(timeout=30)).get("seq") != seq:
                    pass
                self.book.note("drag picture", 200)

    def pictures(self) -> None:
        part = self.dice.choice(
            ["thumbnail.png", "judged", "images", "last.jpg", "picture.png?side=400", "spot?x=0.5&y=0.5"]
        )
        with contextlib.suppress(httpx.HTTPError):
            answer = self.asker.get(f"/shots/{self.own}/{part}", timeout=20)
            self.book.note("picture", answer.status_code, answer.text[:200] if answer.status_code >= 400 else "")

    def final(self) -> None:
        answer = self._until_kept(
            "final", lambda key: self.asker.post(f"/shots/{self.own}/finals", key=key, data={"side": 200})
        )
        if answer is not None:
            listed = self.asker.get(f"/shots/{self.own}/finals/list").text
            for number in listed.split('id="remove-')[1:4]:  # nobody's room runs full
                self.asker.post(f"/finals/{number.split(chr(34))[0]}/remove")


JUNK = ["", "x" * 5000, "\0", "../../etc/passwd", "9" * 400, "{", "[[[[", "null", "-1", "NaN", "<script>", "%00", "é" * 100]
VALUES = [5, None, [{"key": [1]}], {}, "x" * 9000, -1e308]
PLACES = ["lights", "cards", "name", "exposure"]
PARTS = ["changes", "go", "pin", "things", "mirror", "view-links"]
ADDRESSES = [
    "/shots/{}", "/shots/{}/states/{}/small.png", "/frames/{}", "/finals/{}/picture.png", "/view/{}", "/join/{}", "/jobs/{}",
    "/shots/SHOT/layers?side={}", "/shots/SHOT/spot?x={}&y={}", "/materials/picture.png?kind={}&name={}",
]  # fmt: skip


def odd_requests(asker: Asker, shot: str, count: int, book: Book, ended: threading.Event) -> None:
    """Nonsense by somebody who is signed in."""
    dice = random.Random(7)
    for _ in range(count):
        if ended.is_set():
            return
        with contextlib.suppress(httpx.HTTPError, httpx.InvalidURL, ValueError):
            if dice.random() < 0.5:
                address = dice.choice(ADDRESSES).replace("SHOT", shot).format(dice.choice(JUNK), dice.choice(JUNK))
                answer = asker.get(address, timeout=20)
            else:
                body = json.dumps({"changes": [{"path": [dice.choice(PLACES)], "value": dice.choice(VALUES)}]})
                answer = asker.post(f"/shots/{shot}/{dice.choice(PARTS)}", content=body, timeout=20)
            book.note("odd request", answer.status_code, f"{answer.request.url}: {answer.text}")


LAMP = b"IESNA:LM-63-2002\nTILT=NONE\n1 1000 1 3 1 1 2 0 0 0 1 1 10\n0 45 90\n0\n100 50 0\n"


def hostile_files(asker: Asker, shot: str, job: str, count: int, book: Book, ended: threading.Event) -> None:
    """Damaged and lying files for every reader."""
    dice = random.Random(11)
    good = {
        f"/shots/{shot}/frames": ("a.png", samples.encoded("PNG")),
        f"/shots/{shot}/lamp": ("a.ies", LAMP),
        f"/shots/{shot}/profile": ("a.svg", b"<svg><path d='M0 0 L5 10 L3 20'/></svg>"),
        f"/shots/{shot}/model": ("a.obj", samples.TETRAHEDRON),
        f"/jobs/{job}/import": ("a.json", (samples.DEMO / "elder-cordial.json").read_bytes()),
    }
    for _ in range(count):
        if ended.is_set():
            return
        address = dice.choice(list(good))
        name, data = good[address]
        data = bytearray(data if isinstance(data, bytes) else data.encode())
        for _ in range(dice.randrange(1, 30)):
            data[dice.randrange(len(data))] = dice.randrange(256)
        if dice.random() < 0.3:
            data = data[: dice.randrange(len(data))]
        with contextlib.suppress(httpx.HTTPError):
            files, form = {"file": (name, bytes(data))}, {"unit": "cm", "height_cm": 20}
            answer = asker.post(address, files=files, data=form, timeout=60)
            book.note("hostile file", answer.status_code, f"{address}: {answer.text}")


def killer(place: Site, postgres, count: int, book: Book, ended: threading.Event, seconds: float) -> None:
    """Kills servers, workers and database connections now and then; what dies is begun again."""
    dice = random.Random(3)
    for _ in range(count):
        if ended.wait(seconds / (count + 1)):
            return
        kind = dice.choice(["server", "second", "screen", "final", "database"])
        book.kills[kind] += 1
        if kind == "database":
            process = psutil.Process(postgres._process.pid)
            backends = [p for p in process.children() if "fotaxis" in " ".join(p.cmdline())]
            for backend in dice.sample(backends, min(3, len(backends))):
                with contextlib.suppress(psutil.Error):
                    backend.send_signal(signal.SIGTERM)
            continue
        with contextlib.suppress(ProcessLookupError):
            os.kill(place.processes[kind].pid, signal.SIGKILL)
        place.processes[kind].wait()
        place.processes[kind].stdout.close()
        if kind in ("server", "second"):
            place.serve(name=kind, port=None if kind == "server" else place.second_port)
        else:
            place.worker(kind)


def soak(seconds: float, kills: int, odd: int, hostile: int) -> int:
    """Run it; 0 when nothing was lost or doubled and nothing answered 500."""
    book, ended = Book(), threading.Event()
    with running_postgres(lasting=True) as postgres, site(new_database(postgres)) as place:
        place.serve()
        place.second_port = free_port()
        place.serve(name="second", port=place.second_port)
        place.worker("screen")
        place.worker("final")
        owners = [place.new_person(f"studio-{i}") for i in range(STUDIOS)]
        jobs = [owner.new_job() for owner in owners]
        shots = [owner.new_shot(job) for owner, job in zip(owners, jobs, strict=True)]
        people = []
        for n in range(PEOPLE):
            asker = Asker(place, owners[n % STUDIOS].login).signed_in()
            if n % 4 == 3:  # some work through the second server
                asker = second_face(asker, place)
            people.append(Person(asker, n, shots[n % STUDIOS], book, ended))
        first, second = (Asker(place, owner.login).signed_in() for owner in owners[:2])
        others = [
            threading.Thread(target=odd_requests, args=(first, shots[0], odd, book, ended)),
            threading.Thread(target=hostile_files, args=(second, second.new_shot(jobs[1]), jobs[1], hostile, book, ended)),
            threading.Thread(target=killer, args=(place, postgres, kills, book, ended, seconds)),
        ]
        began = time.monotonic()
        for thread in [*people, *others]:
            thread.start()
        while time.monotonic() - began < seconds:
            time.sleep(min(5.0, seconds / 20))
            book.memory.append((time.monotonic() - began, memory_of(place)))
        ended.set()
        for thread in [*people, *others]:
            thread.join(60)
        return report(book, place, owners, shots, seconds)


def second_face(asker: Asker, place: Site) -> Asker:
    other = Site(place.url, port=place.second_port)
    return Asker(other, asker.login, asker.token, asker.client)


def memory_of(place: Site) -> dict[str, float]:
    found = {}
    for name, process in place.processes.items():
        with contextlib.suppress(psutil.Error):
            found[name] = psutil.Process(process.pid).memory_info().rss / 1e6
    return found


def at_path(document: dict, path: str) -> object:
    """What stands at a dotted path; things of lists are named by their keys."""
    at: object = document
    for step in path.split("."):
        at = at[step] if isinstance(at, dict) else next(thing for thing in at if thing["key"] == step)
    return at


def kept_or_lost(book: Book, place: Site, owners: list[Asker], shots: list[str]) -> tuple[list[str], list[str]]:
    """Look for everything that an answer promised: what is lost, and what is there twice."""
    database = SqlDatabase(place.url, pool_size=1)
    services = make_services(database)
    studios = {owner.login: services.staff.by_login(owner.login).studio_id for owner in owners}
    lost, doubled = [], []
    for owner, shot in zip(owners, shots, strict=True):
        first: dict[tuple[str, object], int] = {}  # the number of the first state that holds a value at a path
        paths = {path for told, path, _, _ in book.values if told == shot}
        for state in services.shots.states(studios[owner.login], shot):
            document = services.shots.document_at(studios[owner.login], shot, number=state.number)
            for path in paths:
                first.setdefault((path, at_path(document, path)), state.number)
        for told, path, revision, value in book.values[-LOOKED_AT:]:
            # A save that is answered only when it is sent again is told the state of then, which may be a later one.
            if told == shot and first.get((path, value), revision + 1) > revision:
                lost.append(f"{path} of {shot}: {value}, told with state {revision}")
    names = {login: Counter(job.name for job in services.jobs.all(studio)) for login, studio in studios.items()}
    for login, name in book.jobs:
        if names[login][name] == 0:
            lost.append(name)
    doubled += [name for counts in names.values() for name, count in counts.items() if count > 1]
    database.close()
    return lost, doubled


def report(book: Book, place: Site, owners: list[Asker], shots: list[str], seconds: float) -> int:
    """Say what was found."""
    lost, doubled = kept_or_lost(book, place, owners, shots)
    print(f"{seconds / 60:.1f} minutes, {PEOPLE} people of {STUDIOS} studios, kills: {dict(book.kills)}")
    print(f"tried:  {dict(book.tried)}")
    print(f"failed: {dict(book.failed)}")
    print("        (no answer: a server was killed meanwhile; the save was sent again under its key)")
    print(f"promised: {len(book.values)} values, {len(book.jobs)} jobs")
    print(f"lost: {len(lost)} {lost[:5]}; doubled: {len(doubled)} {doubled[:5]}")
    print(f"answers of 500: {len(book.five_hundred)} {book.five_hundred[:5]}")
    for name, times in (("pages", book.pages), ("saves", book.saves)):
        ordered = sorted(times) or [0.0]
        middle, late = ordered[len(ordered) // 2], ordered[int(0.95 * len(ordered))]
        print(f"{name}: {len(times)}, median {1000 * middle:.0f} ms, 95 % {1000 * late:.0f} ms")
    for at, found in book.memory[:: max(1, len(book.memory) // 10)]:
        print(
            f"  memory after {at / 60:5.1f} min: " + ", ".join(f"{name} {mb:.0f} MB" for name, mb in sorted(found.items()))
        )
    most = {name: max(found.get(name, 0) for _, found in book.memory) for name in ("server", "second", "screen", "final")}
    heavy = [name for name, mb in most.items() if mb > (SERVER_MB if name in ("server", "second") else WORKER_MB)]
    rounded = {name: round(mb) for name, mb in most.items()}
    print(f"most memory, MB: {rounded}{'  TOO MUCH: ' + ', '.join(heavy) if heavy else ''}")
    return 1 if lost or doubled or book.five_hundred or heavy else 0


def main() -> int:
    parser = argparse.ArgumentParser(prog="./run soak", description=__doc__)
    parser.add_argument("--minutes", type=float, default=60.0)
    args = parser.parse_args()
    share = args.minutes / 60
    return soak(
        args.minutes * 60,
        kills=max(4, round(60 * share)),
        odd=max(100, round(2000 * share)),
        hostile=max(30, round(500 * share)),
    )


if __name__ == "__main__":
    sys.exit(main())
