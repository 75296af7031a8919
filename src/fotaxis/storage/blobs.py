"""services.ports.Blobs: bytes in the database, or in an object store or folder named by one address."""

from __future__ import annotations

from obstore.exceptions import BaseError
from obstore.store import from_url

from fotaxis.services.ports import NotFound, Unavailable
from fotaxis.storage.database import SqlDatabase

AWAY = "The store of photographs and finals does not answer just now. Nothing was changed; try again in a moment."


class SqlBlobs:
    """In the table `blobs`."""

    def __init__(self, database: SqlDatabase) -> None:
        self._database = database

    def put(self, key: str, data: bytes) -> None:
        with self._database.transaction(keep_save=False) as repo:
            repo.put_blob(key, data)

    def get(self, key: str) -> bytes:
        with self._database.transaction() as repo:
            return repo.blob(key)

    def remove(self, key: str) -> None:
        with self._database.transaction(keep_save=False) as repo:
            repo.remove_blob(key)


class StoreBlobs:
    """In any store that the library knows by its address: s3://bucket/folder, gs://, az://, file:///folder, memory:///.

    before: where what was kept before there was a store still lies.
    """

    def __init__(self, address: str, *, before: SqlBlobs | None = None) -> None:
        self._before = before
        try:
            self._store = from_url(address)
        except (BaseError, ValueError, TypeError) as error:
            raise ValueError(
                "FOTAXIS_STORE: this is no address of a store. Use s3://bucket/folder, gs://bucket, az://container or "
                "file:///folder, with the store's own settings for its keys."
            ) from error

    def put(self, key: str, data: bytes) -> None:
        try:
            self._store.put(key, data)
        except BaseError as error:
            raise Unavailable(AWAY) from error

    def get(self, key: str) -> bytes:
        try:
            return bytes(self._store.get(key).bytes())
        except FileNotFoundError:
            if self._before is not None:
                return self._before.get(key)
            raise NotFound from None
        except BaseError as error:
            raise Unavailable(AWAY) from error

    def remove(self, key: str) -> None:
        try:
            self._store.delete(key)
        except FileNotFoundError:
            pass
        except BaseError as error:
            raise Unavailable(AWAY) from error
        if self._before is not None:
            self._before.remove(key)
