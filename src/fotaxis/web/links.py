"""Every address of the application, in one place; templates and scripts get them from here."""

from __future__ import annotations

from urllib.parse import urlencode
from uuid import UUID

HOME = "/jobs"
SIGN_IN = "/sign-in"
SIGN_OUT = "/sign-out"
SET_UP = "/set-up"
SCHEMA = "/schema/shot.json"


def job(job_id: UUID) -> str:
    return f"/jobs/{job_id}"


def shot(shot_id: UUID) -> str:
    return f"/shots/{shot_id}"


def shot_part(shot_id: UUID, part: str) -> str:
    """part: changes, undo, redo, things, profile, layers, live, state, sheet, frames, export, thumbnail.png, ..."""
    return f"/shots/{shot_id}/{part}"


def frame(frame_id: UUID) -> str:
    return f"/frames/{frame_id}"


def frame_part(frame_id: UUID, part: str) -> str:
    return f"/frames/{frame_id}/{part}"


def final_part(final_id: UUID, part: str) -> str:
    """part: picture.png, layers.exr, cancel, remove."""
    return f"/finals/{final_id}/{part}"


def merge_part(merge_id: UUID, part: str) -> str:
    """part: picture.jpg, file.tif, cancel, remove."""
    return f"/merges/{merge_id}/{part}"


BOOK = "/book"


def looking(token: str) -> str:
    return f"/view/{token}"


MATERIALS = "/materials"
MATERIAL_PICTURE = "/materials/picture.png"


def material(kind: str, name: str) -> str:
    return f"{MATERIAL_PICTURE}?{urlencode({'kind': kind, 'name': name})}"


LIGHTS = "/lights"
LIGHT_PICTURE = "/lights/picture.png"


def light(kind: str, name: str) -> str:
    return f"{LIGHT_PICTURE}?{urlencode({'kind': kind, 'name': name})}"


KIT = "/kit"
RECKONER = "/reckoner"
RECKONER_CALCULATIONS = "/reckoner/calculations"
RECKONER_ANSWER = "/reckoner/answer"
RECKONER_CORE = "/reckoner/core.zip"
RECKONER_COMPUTE = "/reckoner/compute.js"
RECKONER_OFFLINE = "/reckoner/offline.js"


def reckoner(shot_id: UUID) -> str:
    """The reckoner with a shot's numbers."""
    return f"{RECKONER}?shot={shot_id}"


BEGINNING_PICTURE = "/beginnings/picture.png"
BEGINNING_OUTLINE = "/beginnings/outline"


def beginning(shape: str, look: str = "") -> str:
    return f"{BEGINNING_PICTURE}?{urlencode({'shape': shape, 'look': look})}"


ACCOUNT = "/account"
STUDIO = "/studio"
STUDIO_REMOVED = "/studio/removed"
HISTORY = "/history"
REMOVED = "/removed"
SESSION = "/session"
PASSKEY_IN = "/sign-in/passkey"
CODE = "/sign-in/code"


def join(token: str) -> str:
    return f"/join/{token}"


def new_password(token: str) -> str:
    return f"/new-password/{token}"


def person(user_id: UUID, part: str) -> str:
    """part: role, remove, new-password, take-in."""
    return f"/studio/people/{user_id}/{part}"


def invitation(invitation_id: UUID) -> str:
    return f"/studio/invitations/{invitation_id}/take-back"
