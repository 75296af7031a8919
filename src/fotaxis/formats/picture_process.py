"""A picture read by a process of its own, with limited memory and time: what the parent asks, and what the process answers.

The process writes a line of JSON (size, what else is told, or problem), then the picture's bytes. A file may claim any size: what it
costs is that process's own, and gone when it ends.
"""

from __future__ import annotations

import json
import resource
import subprocess
import sys
from collections.abc import Callable
from typing import Any

import numpy as np

from fotaxis.core.errors import FormatError


class Unreadable(Exception):
    """The file cannot be used; the message says why."""


def asked(module: str, data: bytes, *, channels: int, timeout_s: float, broken: str) -> tuple[dict[str, Any], np.ndarray]:
    """What a reader's module tells of a file, and its picture (height, width, channels) uint8, or uint16 where it says 16 bits.

    Raises FormatError: what the reader says, or `broken` where it did not come to its end.
    """
    try:
        done = subprocess.run(
            [sys.executable, "-I", "-m", module], input=data, capture_output=True, check=False, timeout=timeout_s
        )
    except subprocess.TimeoutExpired:
        raise FormatError(broken) from None
    head, _, pixels = done.stdout.partition(b"\n")
    try:
        said = json.loads(head)
    except ValueError:
        raise FormatError(broken) from None
    if "problem" in said:
        raise FormatError(said["problem"])
    height, width = said["size"]
    kind = np.uint16 if said.get("bits") == 16 else np.uint8
    if len(pixels) != height * width * channels * np.dtype(kind).itemsize:
        raise FormatError(broken)
    return said, np.frombuffer(pixels, kind).reshape(height, width, channels)


def answered(read: Callable[[bytes], tuple[dict[str, Any], np.ndarray]], *, memory_bytes: int, seconds: int) -> int:
    """The process: reads one file from standard input within its limits, writes what `read` makes of it; its exit code."""
    resource.setrlimit(resource.RLIMIT_AS, (memory_bytes, memory_bytes))
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))
    out = sys.stdout.buffer
    try:
        said, picture = read(sys.stdin.buffer.read())
    except Unreadable as error:
        out.write(json.dumps({"problem": str(error)}).encode() + b"\n")
        return 1
    bits = 8 * picture.dtype.itemsize
    out.write(json.dumps({**said, "size": picture.shape[:2], "bits": bits}).encode() + b"\n")
    out.write(np.ascontiguousarray(picture).tobytes())
    return 0
