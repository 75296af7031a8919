"""Programs that run beside one another and are begun again when they die."""

from __future__ import annotations

import logging
import signal
import subprocess
import threading
import time
from collections.abc import Mapping

log = logging.getLogger("fotaxis.supervisor")

LOOK_S = 0.5
WAITS_S = (0.5, 1, 2, 5, 15, 30)
CALM_S = 60.0
END_S = 5.0


def ends_with_us(command: list[str]) -> list[str]:
    """A command that is told to end when this process does, however it does: one that is killed leaves nothing running."""
    return ["setpriv", "--pdeathsig", "TERM", "--", *command]


class Supervisor:
    """Keeps commands running; one that dies at once again and again is begun less and less often."""

    def __init__(self, commands: Mapping[str, list[str]], *, quiet: bool) -> None:
        self._commands = dict(commands)
        self._quiet = quiet
        self._running: dict[str, subprocess.Popen[bytes]] = {}
        self._begun: dict[str, float] = {}
        self._deaths: dict[str, int] = {}
        self._next: dict[str, float] = {}
        self._ended = threading.Event()
        self._thread: threading.Thread | None = None

    def _begin(self, name: str) -> None:
        out = subprocess.DEVNULL if self._quiet else None
        self._running[name] = subprocess.Popen(self._commands[name], stdout=out)
        self._begun[name] = time.monotonic()

    def _look(self) -> None:
        now = time.monotonic()
        for name in self._commands:
            process = self._running.get(name)
            if process is not None and process.poll() is None:
                continue
            if process is not None:
                self._running.pop(name)
                lived = now - self._begun[name]
                deaths = self._deaths[name] = 0 if lived > CALM_S else self._deaths.get(name, 0) + 1
                wait = WAITS_S[min(deaths, len(WAITS_S) - 1)]
                self._next[name] = now + wait
                log.warning("the %s worker ended (%s); it is begun again in %g s", name, process.returncode, wait)
            if now >= self._next.get(name, 0):
                self._begin(name)

    def start(self) -> None:
        """Begin all, in the background."""
        self._thread = threading.Thread(target=self._run, name="supervisor", daemon=True)
        for name in self._commands:
            self._begin(name)
        self._thread.start()

    def _run(self) -> None:
        while not self._ended.wait(LOOK_S):
            self._look()

    def stop(self) -> None:
        """End all, gently, then firmly."""
        self._ended.set()
        if self._thread is not None:
            self._thread.join(LOOK_S + 1)
        for process in self._running.values():
            process.terminate()
        for process in self._running.values():
            try:
                process.wait(END_S)
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()

    def run(self) -> int:
        """Keep all running until a signal says to stop."""
        signal.signal(signal.SIGTERM, lambda *_: self._ended.set())
        signal.signal(signal.SIGINT, lambda *_: self._ended.set())
        for name in self._commands:
            self._begin(name)
        self._run()
        self.stop()
        return 0
