"""What services need from outside; main wires who gives it.

records: values exchanged with storage; repository: one transaction's view of the database; outside: codecs, bytes, news, time;
failures: what may be answered instead; acting: who acts in the present request.
"""

from fotaxis.services.ports.acting import Acting, acting, begin_acting
from fotaxis.services.ports.failures import (
    AlreadyKept,
    Busy,
    Conflict,
    Forbidden,
    NotFound,
    Refused,
    Unavailable,
)
from fotaxis.services.ports.outside import (
    Blobs,
    Clock,
    FinalWriter,
    News,
    PasswordKeeper,
    PhotoReader,
    PictureWriter,
    ShotCodec,
    WorkingPicture,
)
from fotaxis.services.ports.records import (
    BookEntry,
    Document,
    Event,
    Final,
    FinalState,
    Frame,
    Invitation,
    Job,
    Lane,
    Merge,
    OpenSession,
    OwnPiece,
    Passkey,
    Revision,
    Role,
    SharedPicture,
    Shot,
    ShotState,
    SignIn,
    StepShot,
    Usage,
    User,
    ViewLink,
    Work,
)
from fotaxis.services.ports.repository import Database, Repository

__all__ = [
    "Acting", "AlreadyKept", "Blobs", "BookEntry", "Busy", "Clock", "Conflict", "Database", "Document", "Event", "Final",
    "FinalState", "FinalWriter", "Forbidden", "Frame", "Invitation", "Job", "Lane", "Merge", "News", "NotFound", "OpenSession",
    "OwnPiece", "Passkey", "PasswordKeeper", "PhotoReader", "PictureWriter", "Refused", "Repository", "Revision", "Role",
    "SharedPicture", "Shot", "ShotCodec", "ShotState", "SignIn", "StepShot", "Unavailable", "Usage", "User", "ViewLink", "Work",
    "WorkingPicture", "acting", "begin_acting",
]  # fmt: skip
