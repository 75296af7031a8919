"""Ostrel Studio photographs the winter range of Brindlemoor, a maker of cordials and preserves. All of it is invented."""

from __future__ import annotations

import base64
import io
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any, Protocol
from uuid import UUID

import numpy as np
from PIL import ExifTags, Image

from fotaxis.formats import kit_csv
from fotaxis.services.briefs import Briefs, Deliverable
from fotaxis.services.jobs import Jobs
from fotaxis.services.kit import Kit
from fotaxis.services.people.accounts import Accounts
from fotaxis.services.people.staff import Staff
from fotaxis.services.photographs import TestFrames
from fotaxis.services.pictures import Pictures
from fotaxis.services.ports import Acting, Shot, ShotCodec, SignIn, begin_acting
from fotaxis.services.shots import Shots

STUDIO = "Ostrel Studio"
LOGIN = "owner@ostrel.example"
PASSWORD = "lantern-over-water"  # of the demo only
PEOPLE = (
    ("bram@ostrel.example", "Bram of Ostrel", "photographer"),
    ("cosima@ostrel.example", "Cosima", "assistant"),
    ("client@brindlemoor.example", "Brindlemoor, client", "client"),
)
JOB = "Brindlemoor winter range"
FILES = (
    "elder-cordial.json", "elder-cordial-first-try.json", "plum-preserve.json", "gooseberry-with-glass.json",
    "sparkling-can.json", "gift-carton.json", "gooseberry-glow.json", "elder-household-lamp.json", "carton-silver-card.json",
    "gooseberry-dark-field.json", "gooseberry-pool.json", "gooseberry-five-captures.json", "carton-three-captures.json",
)  # fmt: skip
SEED = 7
PRINT = {
    "elder-cordial.json": ("Label", "elder-label.png"), "elder-cordial-first-try.json": ("Label", "elder-label.png"),
    "elder-household-lamp.json": ("Label", "elder-label.png"), "gooseberry-with-glass.json": ("Label", "gooseberry-label.png"),
    "gooseberry-glow.json": ("Label", "gooseberry-label.png"), "gooseberry-pool.json": ("Label", "gooseberry-label.png"),
    "plum-preserve.json": ("Label", "plum-label.png"), "sparkling-can.json": ("Print", "can-print.png"),
    "gooseberry-five-captures.json": ("Label", "gooseberry-label.png"),
}  # fmt: skip
"""The zone of a shot that is printed, and with what."""

BRIEF: dict[str, Any] = {
    "purpose": "Winter catalogue, the shop's pages, and cards for the trade.",
    "looks": "Two soft lines on the dark bottles, label even, black ground; the clear ones glow above the label.",
    "manner": "Built light by light; carton in two plates, card for the foil alone.",
    "rehearsal": "2027-01-12", "visit": "2027-01-14",
    "deliverables": [
        Deliverable(name="Shop square", wide=1, high=1, long_side_px=2400, count=8),
        Deliverable(name="Catalogue page", wide=4, high=5, long_side_px=6000, count=5),
        Deliverable(name="Trade card", wide=16, high=9, long_side_px=3200, count=2),
    ],
}  # fmt: skip

CARTONS = ("gift-carton.json", "carton-three-captures.json")
CARTON_ART = {"picture": "carton-print.png", "foil": "carton-foil.png", "emboss": "carton-emboss.png"}


class DemoServices(Protocol):
    """What the demo uses of the services."""

    @property
    def accounts(self) -> Accounts: ...
    @property
    def staff(self) -> Staff: ...
    @property
    def jobs(self) -> Jobs: ...
    @property
    def kit(self) -> Kit: ...
    @property
    def briefs(self) -> Briefs: ...
    @property
    def shots(self) -> Shots: ...
    @property
    def pictures(self) -> Pictures: ...
    @property
    def frames(self) -> TestFrames: ...
    @property
    def codec(self) -> ShotCodec: ...


def load(services: DemoServices, folder: Path) -> Callable[[], None]:
    """Create the studio, its job and shots; returns what adds simulated frames, which needs the kernels. Does nothing when there
    is an owner already."""
    if not services.accounts.needs_owner():
        return lambda: None
    services.accounts.create_owner(studio_name=STUDIO, login=LOGIN, name="Ada of Ostrel", password=PASSWORD)
    here = _signed_in(services)
    studio = here.user.studio_id
    begin_acting(Acting(user_id=here.user.id, studio_id=studio, name=here.user.name))
    for login, name, role in PEOPLE:
        link = services.staff.invite(here, role=role, note=name)
        services.staff.accept(link, login=login, name=name, password=PASSWORD)
    services.accounts.end_session(here.user.id, session_id=here.id)
    job = services.jobs.create(studio, name=JOB)
    services.kit.take_in(studio, kit_csv.parse((folder / "kit.csv").read_bytes())[0])
    services.briefs.keep(studio, job.id, **BRIEF)
    shots = [services.shots.import_file(studio, job.id, printed(folder, name)) for name in FILES]
    begin_acting(Acting())

    def add_frames() -> None:
        begin_acting(Acting(user_id=here.user.id, studio_id=studio, name=here.user.name))
        for shot in shots:
            _attach_captured(services, folder, studio, shot)
        _attach_frames(services, studio, shots[1].id)
        begin_acting(Acting())

    return add_frames


def printed(folder: Path, name: str) -> bytes:
    """A shot file with what is printed on its product."""
    document = json.loads((folder / name).read_text())
    subject = document["subject"]

    def text(picture: str) -> str:
        return base64.b64encode((folder / "artwork" / picture).read_bytes()).decode()

    if name in CARTONS:
        art = {part: text(picture) for part, picture in CARTON_ART.items()}
        front = {
            "name": "Front",
            "face": "front",
            "low_cm": 0,
            "high_cm": subject["height_cm"],
            "width_cm": subject["width_cm"],
        }
        subject["bands"] = [{**front, "skin": subject["body"], "artwork": {**art, "emboss_mm": 0.35}}]
    elif name in PRINT:
        zone, picture = PRINT[name]
        next(band for band in subject["bands"] if band["name"] == zone)["artwork"] = {"picture": text(picture)}
    return json.dumps(document).encode()


def _signed_in(services: DemoServices) -> SignIn:
    attempt = services.accounts.attempt(login=LOGIN, address="127.0.0.1")
    here = services.accounts.who(services.accounts.sign_in(attempt, password=PASSWORD))
    assert here is not None  # signed in one line above
    return here


def _attach_captured(services: DemoServices, folder: Path, studio: UUID, shot: Shot) -> None:
    """Simulated real frames of a shot's captures, where the demo has any: see simulated_frames."""
    for capture in services.shots.open(studio, shot.id).document["captures"]:
        for file in sorted((folder / "frames").glob(f"*-{capture['key']}.jpg")):
            services.frames.attach(
                studio, shot.id, file_name=file.name, data=file.read_bytes(), note="Simulated.", capture=capture["key"]
            )


def _attach_frames(services: DemoServices, studio: UUID, shot_id: UUID) -> None:
    """Two simulated frames of the first try: one with everything on, one black frame with a lamp left on."""
    plan = services.codec.plan(services.shots.open(studio, shot_id).document)
    picture = services.pictures.fine(plan, long_side=800).developed().astype(np.float32)
    noise = np.random.default_rng(SEED)
    taken = np.clip(picture * 1.04 + noise.normal(0, 1.2, picture.shape), 0, 255).astype(np.uint8)
    services.frames.attach(
        studio, shot_id, file_name="first-try-01.jpg", data=_jpeg(taken, shutter=(1, 125), f_number=8.0, iso=100),
        note="Everything on. The right line is dimmer, and both stop above the foot.",
    )  # fmt: skip
    height, width = picture.shape[:2]
    y, x = np.mgrid[0:height, 0:width]
    lamp = 46 * np.exp(-(((x - width * 0.72) / 60) ** 2 + ((y - height * 0.3) / 90) ** 2))
    black = np.clip(noise.normal(0.4, 0.5, picture.shape) + lamp[..., None] * [1.0, 0.85, 0.6], 0, 255).astype(np.uint8)
    services.frames.attach(
        studio, shot_id, file_name="first-try-black.jpg", data=_jpeg(black, shutter=(1, 125), f_number=8.0, iso=100),
        note="Flashes off. Something warm shows on the right.",
    )  # fmt: skip


def _jpeg(picture: np.ndarray, *, shutter: tuple[int, int], f_number: float, iso: int) -> bytes:
    image = Image.fromarray(picture)
    exif = image.getexif()
    sub = exif.get_ifd(ExifTags.IFD.Exif)
    sub[ExifTags.Base.ExposureTime] = shutter[0] / shutter[1]
    sub[ExifTags.Base.FNumber] = f_number
    sub[ExifTags.Base.ISOSpeedRatings] = iso
    sub[ExifTags.Base.FocalLength] = 100.0
    out = io.BytesIO()
    image.save(out, "JPEG", quality=92, exif=exif)
    return out.getvalue()
