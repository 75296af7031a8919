"""services.ports.Repository over one SQLAlchemy session: the tables of every subject together."""

from __future__ import annotations

from fotaxis.storage.capture_rows import CaptureTables
from fotaxis.storage.people_rows import PeopleTables
from fotaxis.storage.picture_rows import FinalTables, FrameTables, WorkTables
from fotaxis.storage.shot_rows import JobTables, ShotTables
from fotaxis.storage.studio_rows import BlobTables, KitTables, SaveTables, StudioTables


class SqlRepository(
    PeopleTables,
    StudioTables,
    KitTables,
    JobTables,
    ShotTables,
    FrameTables,
    FinalTables,
    CaptureTables,
    WorkTables,
    SaveTables,
    BlobTables,
):
    """See services.ports.Repository. A row of another studio is as absent as one that never was."""
