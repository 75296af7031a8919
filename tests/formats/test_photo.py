"""Photographs: what EXIF tells, which way is up, and files that are none."""

import io
import struct
import zlib

import numpy as np
import pytest
import tifffile
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from fotaxis.core.errors import FormatError
from fotaxis.formats import photo, photo_reader
from tests.formats import samples


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "TIFF"])
def test_exposure_is_read_from_exif(kind):
    read = photo.read(samples.encoded(kind))
    assert read.media_type == f"image/{kind.lower()}"
    assert (read.width, read.height) == (64, 80)
    e = read.exposure
    assert (e.iso, e.f_number, e.focal_length_mm) == (100, 8, 100)
    assert e.shutter_s == pytest.approx(1 / 125, rel=1e-4)


@pytest.mark.parametrize("kind", ["PNG", "TIFF"])
def test_pixels_come_through_a_lossless_file_unchanged(kind):
    assert np.array_equal(photo.read(samples.encoded(kind)).picture, samples.picture())


def test_a_picture_without_exif_says_nothing():
    e = photo.read(samples.encoded("PNG", exposure=False)).exposure
    assert (e.iso, e.shutter_s, e.f_number) == (None, None, None)


def test_orientation_is_applied():
    # EXIF 2.32: orientation 6 means the 0th row is the visual right-hand side; the white corner moves to the right.
    read = photo.read(samples.encoded("PNG", orientation=6))
    assert (read.width, read.height) == (80, 64)
    assert read.picture[:8, -8:].min() == 255


def test_sixteen_bit_tiff():
    values = (samples.picture().astype(np.uint16)) * 257
    out = io.BytesIO()
    tifffile.imwrite(out, values, photometric="rgb")
    assert np.array_equal(photo.read(out.getvalue()).picture, samples.picture())


def test_sixteen_bit_grey_png():
    values = np.full((20, 30), 32768, np.uint16)
    out = io.BytesIO()
    Image.fromarray(values).save(out, "PNG")
    assert set(np.unique(photo.read(out.getvalue()).picture)) == {128}


def test_large_pictures_are_worked_on_smaller():
    out = io.BytesIO()
    Image.new("RGB", (4000, 3000), (10, 20, 30)).save(out, "JPEG")
    read = photo.read(out.getvalue())
    assert (read.width, read.height) == (4000, 3000)
    assert max(read.picture.shape) == photo_reader.WORKING_SIDE


def png_bomb(side=60_000):
    """A PNG that announces a vast picture in a few bytes."""

    def chunk(kind, data):
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", side, side, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 1000)) + chunk(b"IEND", b"")


def gif():
    out = io.BytesIO()
    Image.new("RGB", (8, 8)).save(out, "GIF")
    return out.getvalue()


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "empty"),
        (b"not a picture at all", "not a JPEG, PNG or TIFF"),
        (b'{"format": "fotaxis-shot"}', "not a JPEG, PNG or TIFF"),
        (gif(), "not a JPEG, PNG or TIFF"),
        (png_bomb(), "million pixels"),
        (samples.encoded("JPEG")[:900], "broken"),
        (samples.encoded("PNG")[:-60], "broken"),
        (b"II*\0" + b"\xff" * 60, "TIFF|broken"),
        (b"\0" * (photo.MAX_BYTES + 1), "at most 80 MB"),
    ],
    ids=["empty", "text", "json", "gif", "bomb", "cut jpeg", "cut png", "broken tiff", "huge"],
)
def test_what_is_no_photograph_is_refused(data, words):
    with pytest.raises(FormatError, match=words):
        photo.read(data)


@given(st.sampled_from(["JPEG", "PNG", "TIFF"]), st.integers(0, 10**6), st.binary(min_size=1, max_size=8))
@settings(max_examples=150, deadline=None)
def test_damaged_files_never_fail_without_words(kind, place, damage):
    data = bytearray(samples.encoded(kind))
    at = place % len(data)
    data[at : at + len(damage)] = damage
    try:  # as its own process reads it: starting one for each of so many would take a minute
        said, picture = photo_reader.read(bytes(data))
        assert picture.dtype == np.uint8
        assert picture.shape[2] == 3
        assert said["width"] > 0
    except photo_reader.Unreadable as error:
        assert str(error).endswith(".")
