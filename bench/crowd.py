"""Many people at once: thirty drag on shots of their own, and somebody of another studio opens pages and saves."""

from __future__ import annotations

import http.client
import json
import statistics
import threading
import time

import psutil

from bench.timing import line
from fotaxis.formats import shot_file
from tests.conftest import new_database, running_postgres
from tests.formats import samples
from tests.server.site import header, site

FILES = sorted(path.name for path in samples.DEMO.glob("*.json"))
SECONDS = 20.0
DRAGGERS = (1, 10, 30)


def crowd() -> None:
    """Prints pictures a second, how evenly they are shared, and how long pages and saves of another studio take meanwhile."""
    print("\nCrowd: people who drag on shots of their own; pages and saves of another studio meanwhile")
    print(
        f"{'draggers':>9} {'pictures/s':>11} {'least':>7} {'median':>7} {'most':>7} {'page 95 %':>10} {'save 95 %':>10} {'memory':>8}"
    )
    with running_postgres() as postgres, site(new_database(postgres)) as place:
        server = place.serve()
        place.worker("screen")
        large, small = place.new_person("large"), place.new_person("small")
        job, own = large.new_job(), small.new_shot()
        shots = [large.new_shot(job, FILES[i % len(FILES)]) for i in range(max(DRAGGERS))]
        for count in DRAGGERS:
            counts, pages, saves = _at_once(large, small, shots[:count], own)
            memory = psutil.Process(server.pid).memory_info().rss / 1e6
            shared = sorted(n / SECONDS for n in counts)
            print(
                f"{count:>10} {sum(shared):>10.1f} {shared[0]:>10.2f} {statistics.median(shared):>10.2f} {shared[-1]:>10.2f} "
                f"{_late(pages):>7.0f} ms {_late(saves):>7.0f} ms {memory:>7.0f} MB",
                flush=True,
            )
        _opening(place, small)
        _called_off(place, small)


def _opening(place, person):  # type: ignore[no-untyped-def]
    """A shot that was open before: how long until its page and its last picture are there."""
    shot = person.new_shot(file="gooseberry-with-glass.json")
    person.get(f"/shots/{shot}/layers?side=600")
    time.sleep(1.0)
    pages, pictures = [], []
    for _ in range(10):
        began = time.monotonic()
        person.get(f"/shots/{shot}")
        pages.append(1000 * (time.monotonic() - began))
        assert person.get(f"/shots/{shot}/last.jpg").headers["x-picture"] == "present"
        pictures.append(1000 * (time.monotonic() - began))
    print(line("a shot that was open before: its page", pages))
    print(line("its page and its last picture", pictures, wanted="wanted: 300 ms"))


def _called_off(place, person):  # type: ignore[no-untyped-def]
    """From the browser's going until the worker rests."""
    shot = person.new_shot(file="gooseberry-with-glass.json")
    worker, taken = psutil.Process(place.processes["screen"].pid), []
    cookie = "; ".join(f"{name}={value}" for name, value in person.client.cookies.items())
    for wait in (0.6, 1.2, 2.0, 3.0, 4.0):
        asked = http.client.HTTPConnection("127.0.0.1", place.port)
        asked.request("GET", f"/shots/{shot}/layers?side=1200", headers={"cookie": cookie})
        time.sleep(wait)
        asked.sock.close()
        began = time.monotonic()
        while worker.cpu_percent(0.05) > 20:
            pass
        taken.append(1000 * (time.monotonic() - began))
    print(line("a picture called off: until the worker rests", taken, wanted="wanted: 500 ms"))


def _late(times: list[float]) -> float:
    return 1000 * sorted(times)[int(0.95 * len(times))] if times else 0.0


def _at_once(large, small, shots, own):  # type: ignore[no-untyped-def]
    ended = threading.Event()
    counts = [0] * len(shots)
    threads = [threading.Thread(target=_drag, args=(large, shot, i, counts, ended)) for i, shot in enumerate(shots)]
    for thread in threads:
        thread.start()
    time.sleep(4.0)  # everything has been traced once
    before, pages, saves = list(counts), [], []
    until = time.monotonic() + SECONDS
    iso = 100
    while time.monotonic() < until:
        began = time.monotonic()
        assert small.get("/jobs").status_code == 200
        pages.append(time.monotonic() - began)
        began = time.monotonic()
        iso = 300 - iso
        assert small.change(own, "exposure.iso", iso).status_code == 200
        saves.append(time.monotonic() - began)
        time.sleep(0.05)
    counted = [now - was for now, was in zip(counts, before, strict=True)]
    ended.set()
    for thread in threads:
        thread.join(30)
    return counted, pages, saves


def _drag(person, shot, number, counts, ended):  # type: ignore[no-untyped-def]
    document = shot_file.read((samples.DEMO / FILES[number % len(FILES)]).read_bytes()).model_dump(mode="json")
    key = document["lights"][0]["key"]
    with person.socket(shot, f"w{number}") as socket:
        seq = 0
        while not ended.is_set():
            seq += 1
            change = {"path": ["lights", key, "place", "x_cm"], "value": -40 + 0.1 * (seq % 100)}
            socket.send(json.dumps({"seq": seq, "revision": 1, "changes": [change]}))
            while header(socket.recv(timeout=60)).get("seq") != seq:
                pass
            counts[number] += 1
