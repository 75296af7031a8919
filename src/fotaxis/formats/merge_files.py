"""Files of a merge: services.captures.merges.MergeFiles by the formats of this package."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.frames.clipping import crop_to_ratio
from fotaxis.formats import deep_pictures, frame_pixels, openraster, picture_files


class Layer(Protocol):
    """What a layer is made of, see openraster.RasterLayer."""

    @property
    def name(self) -> str: ...
    @property
    def pixels(self) -> NDArray[np.uint16]: ...
    @property
    def mask(self) -> NDArray[np.float32] | None: ...
    @property
    def blend(self) -> str: ...


class JoinedFiles:
    """Frames in, merged pictures out."""

    def pixels(self, data: bytes, folder: Path, crop_ratio: float) -> NDArray:
        return crop_to_ratio(frame_pixels.read(data, folder), crop_ratio)

    def tiff(self, pages: Sequence[tuple[str, NDArray[np.uint16]]]) -> bytes:
        return deep_pictures.deep_tiff(pages)

    def jpeg(self, picture: NDArray[np.uint16]) -> bytes:
        return deep_pictures.profiled_jpeg(picture)

    def png(self, picture: NDArray[np.uint16]) -> bytes:
        return deep_pictures.deep_png(picture)

    def png_of_tiff(self, data: bytes) -> bytes:
        """A 16-bit PNG of the first page of a TIFF that was written here."""
        return deep_pictures.deep_png(deep_pictures.first_page(data))

    def openraster(self, layers: Iterator[Layer], picture: NDArray[np.uint16]) -> bytes:
        made = (openraster.RasterLayer(name=one.name, pixels=one.pixels, mask=one.mask, blend=one.blend) for one in layers)
        return openraster.openraster(made, picture)

    def exr(self, names: Sequence[str], pictures: NDArray[np.float32]) -> bytes:
        return picture_files.exr(keys=tuple(names), pictures=pictures)
