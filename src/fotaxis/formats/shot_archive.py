"""A whole shot as one zip, and back. The file is untrusted: names and sizes are checked before anything is unpacked."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from fotaxis.core.errors import FormatError
from fotaxis.formats.picture_files import jpeg

MAX_BYTES = 600_000_000
MAX_ENTRIES = 400
PACKED = (".json", ".txt", ".pdf")
"""Endings of what is deflated; pictures are packed already."""

NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9._-]*(/[A-Za-z0-9][A-Za-z0-9._-]*)?")


class WholeShotFiles:
    """services.captures.exports.ArchiveFiles."""

    def pack(self, entries: Mapping[str, bytes]) -> bytes:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as file:
            for name, data in entries.items():
                how = zipfile.ZIP_DEFLATED if name.endswith(PACKED) else zipfile.ZIP_STORED
                file.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), data, how)
        return out.getvalue()

    def unpack(self, data: bytes) -> dict[str, bytes]:
        try:
            with zipfile.ZipFile(io.BytesIO(data)) as file:
                found = [one for one in file.infolist() if not one.is_dir()]
                if len(found) > MAX_ENTRIES:
                    raise FormatError(f"the zip holds {len(found)} files; a whole shot holds at most {MAX_ENTRIES}.")
                if sum(one.file_size for one in found) > MAX_BYTES:
                    raise FormatError(
                        f"the zip unpacks to more than {MAX_BYTES / 1e9:g} GB; bring its frames in one by one."
                    )
                if any(not NAME.fullmatch(one.filename) for one in found):
                    raise FormatError("the zip holds a file of an odd name; a whole shot that was exported here does not.")
                return {one.filename: file.read(one) for one in found}
        except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError) as error:
            raise FormatError("this is no whole zip file; choose one that was exported here as a whole shot.") from error

    def mask(self, mask: NDArray[np.float32]) -> bytes:
        out = io.BytesIO()
        Image.fromarray((np.clip(mask, 0, 1) * 255 + 0.5).astype(np.uint8)).save(out, "PNG")
        return out.getvalue()

    def picture(self, picture: NDArray[np.uint8]) -> bytes:
        return jpeg(picture)
