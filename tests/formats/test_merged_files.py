"""What a merge writes, opened by libraries that did not write it: Pillow, pyora, Mitsuba's reader, the standard library."""

import io
import json
import struct
import zipfile
import zlib
from xml.etree import ElementTree

import mitsuba as mi
import numpy as np
import pytest
from PIL import Image, ImageCms
from pyora import Project

from fotaxis.core.errors import DomainError, FormatError
from fotaxis.core.frames.clipping import crop_to_ratio
from fotaxis.formats import deep_pictures, frame_pixels, photo
from fotaxis.formats.merge_files import JoinedFiles
from fotaxis.formats.openraster import RasterLayer, openraster
from fotaxis.formats.shot_archive import MAX_ENTRIES, WholeShotFiles
from tests.formats import samples


@pytest.fixture
def codes():
    return np.random.default_rng(1).integers(0, 65536, (33, 47, 3), dtype=np.uint16)


def unfiltered(png):
    """The samples of a 16-bit PNG by the standard's own words (ISO/IEC 15948, filters none and sub), and its chunks."""
    assert png[:8] == b"\x89PNG\r\n\x1a\n"
    at, chunks, data = 8, {}, b""
    while at < len(png):
        length, kind = struct.unpack(">I4s", png[at : at + 8])
        body = png[at + 8 : at + 8 + length]
        assert zlib.crc32(kind + body) == struct.unpack(">I", png[at + 8 + length : at + 12 + length])[0]
        chunks[kind] = body
        data += body if kind == b"IDAT" else b""
        at += 12 + length
    width, height, depth, colour = struct.unpack(">IIBB", chunks[b"IHDR"][:10])
    channels = {2: 3, 6: 4}[colour]
    step, raw = channels * depth // 8, zlib.decompress(data)
    rows = []
    for y in range(height):
        line = bytearray(raw[y * (width * step + 1) : (y + 1) * (width * step + 1)])
        assert line[0] == 1
        values = line[1:]
        for i in range(step, len(values)):
            values[i] = (values[i] + values[i - step]) % 256
        rows.append(np.frombuffer(bytes(values), ">u2").reshape(width, channels))
    return np.array(rows), chunks


def test_a_deep_png_holds_every_code(codes):
    found, chunks = unfiltered(deep_pictures.deep_png(codes))
    assert np.array_equal(found, codes)
    name, _, profile = chunks[b"iCCP"].partition(b"\0\0")
    assert name == b"sRGB"
    theirs = ImageCms.ImageCmsProfile(io.BytesIO(zlib.decompress(profile)))
    assert "sRGB" in ImageCms.getProfileDescription(theirs)
    with Image.open(io.BytesIO(deep_pictures.deep_png(codes))) as image:  # Pillow reads eight of the sixteen bits
        assert np.abs(np.asarray(image.convert("RGB"), int) - codes / 257).max() <= 1
    with_alpha = np.concatenate([codes, codes[..., :1]], axis=2)
    assert np.array_equal(unfiltered(deep_pictures.deep_png(with_alpha))[0], with_alpha)
    with pytest.raises(DomainError):
        deep_pictures.deep_png(codes.astype(np.uint8))


def test_a_layered_tiff_is_read_by_another_library(codes):
    # Pillow knows no colour TIFF of 16 bits; the directory is walked by hand (TIFF 6.0), the pixels are where it says.
    data = deep_pictures.deep_tiff([("Composite", codes), ("Label light", codes[::-1].copy())])
    order = {b"II": "<", b"MM": ">"}[data[:2]]
    at, pages = struct.unpack(order + "I", data[4:8])[0], []
    while at:
        count = struct.unpack(order + "H", data[at : at + 2])[0]
        tags = {}
        for i in range(count):
            tag, kind, many, value = struct.unpack(order + "HHI4s", data[at + 2 + 12 * i : at + 14 + 12 * i])
            size = {1: 1, 2: 1, 3: 2, 4: 4}.get(kind, 4) * many
            where = value[:size] if size <= 4 else data[(o := struct.unpack(order + "I", value)[0]) : o + size]
            tags[tag] = (kind, where)
        pages.append(tags)
        at = struct.unpack(order + "I", data[at + 2 + 12 * count : at + 6 + 12 * count])[0]
    assert len(pages) == 2

    def number(tags, tag):
        kind, where = tags[tag]
        return struct.unpack(order + {3: "H", 4: "I"}[kind], where[: {3: 2, 4: 4}[kind]])[0]

    for tags, wanted, name in zip(pages, (codes, codes[::-1]), (b"Composite", b"Label light"), strict=True):
        assert (number(tags, 256), number(tags, 257), number(tags, 259)) == (47, 33, 1)  # width, height, uncompressed
        offset = number(tags, 273)
        pixels = np.frombuffer(data[offset : offset + wanted.nbytes], order + "u2").reshape(wanted.shape)
        assert np.array_equal(pixels, wanted)
        assert tags[285][1].rstrip(b"\0") == name
        assert len(tags[34675][1]) > 300  # its profile
    assert np.array_equal(deep_pictures.first_page(data), codes)


def test_a_profiled_jpeg_has_its_profile(codes):
    smooth = np.repeat(np.linspace(0, 65535, 64).astype(np.uint16)[None, :, None], 48, 0).repeat(3, 2)
    with Image.open(io.BytesIO(deep_pictures.profiled_jpeg(smooth))) as image:
        assert image.size == (64, 48)
        assert "sRGB" in ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(io.BytesIO(image.info["icc_profile"])))
        assert np.abs(np.asarray(image, int) - smooth / 257).max() < 4


def test_openraster_opens_with_its_layers_and_masks(codes, tmp_path):
    mask = np.linspace(0, 1, 47, dtype=np.float32)[None, :].repeat(33, 0)
    layers = [
        RasterLayer(name="Ground", pixels=codes), RasterLayer(name="Label", pixels=codes[::-1].copy(), mask=mask, blend="sum"),
        RasterLayer(name="Line", pixels=codes, blend="lightest", shown=False),
    ]  # fmt: skip
    file = tmp_path / "shot.ora"
    file.write_bytes(openraster(iter(layers), codes))
    with zipfile.ZipFile(file) as packed:
        first = packed.infolist()[0]
        assert (first.filename, first.compress_type) == ("mimetype", zipfile.ZIP_STORED)  # specification 0.0.6
        assert packed.read("mimetype") == b"image/openraster"
        assert {"mergedimage.png", "Thumbnails/thumbnail.png", "stack.xml"} <= set(packed.namelist())
    project = Project.load(str(file))
    assert project.dimensions == (47, 33)
    theirs = {one.name: one for one in project.iter_layers}
    assert sorted(theirs) == ["Ground", "Label", "Line"]
    with zipfile.ZipFile(file) as packed:
        stack = ElementTree.fromstring(packed.read("stack.xml")).find("stack")
    assert [one.get("name") for one in stack] == ["Line", "Label", "Ground"]  # the topmost first
    assert "plus" in theirs["Label"]["composite-op"]
    assert theirs["Line"].hidden
    image = np.asarray(theirs["Label"].get_image_data().convert("RGBA"), int)
    assert np.abs(image[..., 3] - mask * 255).max() <= 1
    assert np.abs(image[..., :3] - codes[::-1] / 257).max() <= 1.01


def test_exr_layers_by_name_are_read_by_another_library(tmp_path):
    mi.set_variant("scalar_rgb")
    layers = np.random.default_rng(3).uniform(0, 2, (2, 20, 30, 3)).astype(np.float32)
    file = tmp_path / "layers.exr"
    file.write_bytes(JoinedFiles().exr(["label-left", "ground-glow"], layers))
    parts = dict(mi.Bitmap(str(file)).split())
    assert np.allclose(np.array(parts["label_left"])[..., :3], layers[0], atol=1e-6)
    assert np.allclose(np.array(parts["ground_glow"])[..., :3], layers[1], atol=1e-6)
    root = next(np.array(part) for name, part in parts.items() if name == "<root>")
    assert np.allclose(root[..., :3], layers.sum(axis=0), atol=1e-5)


def test_frames_are_read_whole_eight_or_sixteen_bits_deep(codes, tmp_path):
    tiff = deep_pictures.deep_tiff([("Frame", codes)])
    assert np.array_equal(frame_pixels.read(tiff, tmp_path), codes)
    picture = samples.picture(90, 60)
    png = samples.encoded("PNG", picture)
    read = frame_pixels.read(png, tmp_path)
    assert read.dtype == np.uint8
    assert np.array_equal(read, picture)
    turned = frame_pixels.read(samples.encoded("JPEG", picture, orientation=6), tmp_path)
    assert turned.shape == (90, 60, 3)
    assert crop_to_ratio(read, 1.0).shape == (60, 60, 3)
    assert crop_to_ratio(read, 4.0).shape == (22, 90, 3)
    for wrong in (b"", b"not a picture", png[: len(png) // 2]):
        with pytest.raises(FormatError):
            frame_pixels.read(wrong, tmp_path)


def test_a_photograph_tells_its_camera():
    image = Image.fromarray(samples.picture())
    exif = image.getexif()
    exif[0x010F], exif[0x0110] = "Plain\x00\x07", "Body 24"
    out = io.BytesIO()
    image.save(out, "JPEG", exif=exif)
    assert photo.read(out.getvalue()).exposure.camera == "Plain Body 24"
    assert photo.read(samples.encoded("PNG")).exposure.camera is None


def test_a_whole_shot_comes_back_and_what_is_none_is_refused():
    files = WholeShotFiles()
    entries = {"shot.json": b"{}", "frames/001-a.jpg": bytes(range(256)), "manifest.json": json.dumps({}).encode()}
    packed = files.pack(entries)
    assert files.unpack(packed) == entries
    assert files.pack(entries) == packed  # the same shot, the same bytes
    for wrong in (b"", b"PK\x03\x04 broken", packed[: len(packed) // 2]):
        with pytest.raises(FormatError, match="no whole zip"):
            files.unpack(wrong)

    def zipped(names):
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as file:
            for name in names:
                file.writestr(name, b"x")
        return out.getvalue()

    for name in ("../evil", "/etc/passwd", "a/b/c.json", "..\\x", ".hidden"):
        with pytest.raises(FormatError, match="odd name"):
            files.unpack(zipped([name]))
    with pytest.raises(FormatError, match="at most"):
        files.unpack(zipped([f"f{i}.txt" for i in range(MAX_ENTRIES + 1)]))
