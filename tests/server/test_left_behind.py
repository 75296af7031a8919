"""A test run that is killed leaves nothing running."""

import os
import signal
import subprocess
import sys
import time

CHILD = "import time; print('up', flush=True); time.sleep(60)"
RUN = f"""
import subprocess, sys, time
from fotaxis.supervisor import ends_with_us
from tests.conftest import running_postgres
with running_postgres() as server:
    child = subprocess.Popen(ends_with_us([sys.executable, "-c", {CHILD!r}]), stdout=subprocess.PIPE)
    child.stdout.readline()
    print(child.pid, server._process.pid, flush=True)
    time.sleep(60)
"""


def alive(number):
    try:
        with open(f"/proc/{number}/stat") as stat:
            return stat.read().split()[2] != "Z"
    except FileNotFoundError:
        return False


def test_a_killed_run_leaves_neither_servers_nor_a_database():
    run = subprocess.Popen([sys.executable, "-c", RUN], stdout=subprocess.PIPE, text=True)
    numbers = [int(word) for word in run.stdout.readline().split()]
    assert len(numbers) == 2
    assert all(alive(number) for number in numbers)
    os.kill(run.pid, signal.SIGKILL)
    run.wait()
    run.stdout.close()
    for _ in range(100):
        if not any(alive(number) for number in numbers):
            return
        time.sleep(0.1)
    raise AssertionError(f"still running: {[number for number in numbers if alive(number)]}")
