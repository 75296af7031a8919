"""`fotaxis backup FILE` and `fotaxis restore FILE`: the database, and what lies in an object store, in one tar file.

    fotaxis.json    {"format": "fotaxis-backup", "version": 1, "made": when}
    database.dump   PostgreSQL's own custom format (pg_dump -Fc); pictures that are made again are left out
    objects/KEY     photographs and finals, where they lie outside the database

A backup is consistent: the database is read at one moment, and what it names in the store never changes.
"""

from __future__ import annotations

import io
import json
import shutil
import subprocess
import sys
import tarfile
import tempfile
import time
from collections.abc import Iterable
from datetime import UTC, datetime
from pathlib import Path

from fotaxis.services.ports import Blobs, NotFound
from fotaxis.storage.database import plain_url

FORMAT, VERSION = "fotaxis-backup", 1
MADE_AGAIN = ("shared_pictures", "workers", "sign_ins", "challenges")


class CannotDo(Exception):
    """The message says why and what to do."""


def programs(name: str, told: str = "") -> str:
    """PostgreSQL's program of a name: where one was told, on the path, or where Debian keeps it."""
    places = [Path(told) / name] if told else []
    places += [Path(found) for found in [shutil.which(name)] if found]
    places += sorted(Path("/usr/lib/postgresql").glob(f"*/bin/{name}"), reverse=True)
    found = next((place for place in places if place.exists()), None)
    if found is None:
        raise CannotDo(f"{name} is not here. Install PostgreSQL's client programs (Debian: postgresql-client).")
    return str(found)


def backup(url: str, keys: Iterable[str], blobs: Blobs | None, file: Path, *, bin_folder: str = "") -> int:
    """Write everything to a new file; how many objects went along. blobs: None where all lies in the database."""
    if file.exists():
        raise CannotDo(f"{file} is there already; choose another name.")
    with tempfile.TemporaryDirectory() as folder:
        dump = Path(folder) / "database.dump"
        command = [programs("pg_dump", bin_folder), "-Fc", "--no-owner", "--no-privileges", "-f", str(dump)]
        command += [f"--exclude-table-data={table}" for table in MADE_AGAIN]
        _ran([*command, plain_url(url)])
        whole = file.with_suffix(file.suffix + ".part")
        count = 0
        with tarfile.open(whole, "w") as tar:
            about = {"format": FORMAT, "version": VERSION, "made": datetime.now(UTC).isoformat(timespec="seconds")}
            _add(tar, "fotaxis.json", json.dumps(about).encode())
            tar.add(dump, "database.dump")
            for key in keys if blobs is not None else ():
                try:
                    _add(tar, f"objects/{key}", blobs.get(key) if blobs else b"")
                    count += 1
                except NotFound:
                    print(f"{key}: the database names it, the store has it not.", file=sys.stderr)
        whole.rename(file)
    return count


def restore(url: str, blobs: Blobs | None, file: Path, *, over: bool, bin_folder: str = "") -> int:
    """Bring everything back into an empty database, or over what is there; how many objects came along."""
    try:
        tar = tarfile.open(file)  # noqa: SIM115  # closed below
    except (OSError, tarfile.TarError) as error:
        raise CannotDo(f"{file} cannot be read as a backup: it is none, or it is damaged.") from error
    with tar, tempfile.TemporaryDirectory() as folder:
        members = {member.name: member for member in tar.getmembers() if member.isfile()}
        about = _read(tar, members, "fotaxis.json")
        if about is None or json.loads(about).get("format") != FORMAT:
            raise CannotDo(f"{file} is no backup of Fotaxis.")
        if json.loads(about).get("version") != VERSION:
            raise CannotDo(f"{file} was made by a newer Fotaxis; restore it with that one.")
        dump = Path(folder) / "database.dump"
        with dump.open("wb") as out:
            source = tar.extractfile(members["database.dump"])
            assert source is not None
            shutil.copyfileobj(source, out)
        command = [
            programs("pg_restore", bin_folder),
            "--no-owner",
            "--no-privileges",
            "--exit-on-error",
            "--single-transaction",
        ]
        if over:
            command += ["--clean", "--if-exists"]
        elif _is_used(url, bin_folder):
            raise CannotDo(
                "The database is not empty. Give --over to put the backup in its place; what is there now is lost."
            )
        _ran([*command, "-d", plain_url(url), str(dump)])
        count = 0
        for name, member in members.items():
            if name.startswith("objects/") and blobs is not None:
                found = tar.extractfile(member)
                assert found is not None
                blobs.put(name.removeprefix("objects/"), found.read())
                count += 1
    return count


def _add(tar: tarfile.TarFile, name: str, data: bytes) -> None:
    member = tarfile.TarInfo(name)
    member.size, member.mtime = len(data), int(time.time())
    tar.addfile(member, io.BytesIO(data))


def _read(tar: tarfile.TarFile, members: dict[str, tarfile.TarInfo], name: str) -> bytes | None:
    found = tar.extractfile(members[name]) if name in members else None
    return found.read() if found else None


def _is_used(url: str, bin_folder: str) -> bool:
    question = "select count(*) from information_schema.tables where table_schema = 'public'"
    told = subprocess.run(
        [programs("psql", bin_folder), "-At", "-c", question, plain_url(url)], capture_output=True, text=True, check=False
    )
    return told.stdout.strip() not in ("", "0")


def _ran(command: list[str]) -> None:
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    if done.returncode:
        words = (done.stderr.strip().splitlines() or ["no reason given"])[-1]
        raise CannotDo(f"{Path(command[0]).name} failed: {words}")
