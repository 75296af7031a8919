"""Made-up studios of tests, put straight into a database."""

from __future__ import annotations

from uuid import UUID, uuid4

from fotaxis.services.ports import Repository


def add_studio(repo: Repository, name: str) -> UUID:
    """A studio with its owner, whatever other tests have called theirs."""
    login = f"{name.lower()}-{uuid4().hex[:6]}"
    return repo.add_owner(studio_name=name, login=f"{login}@test.example", name=name, password_hash="x").studio_id
