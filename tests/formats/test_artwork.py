"""Artwork in: PNG, JPEG, SVG; hostile files; what a shot file keeps of it."""

import io
import json
import zlib

import numpy as np
import pytest
from PIL import Image

from fotaxis.core.errors import DomainError, FormatError
from fotaxis.formats import artwork_file, artwork_text, shot_file
from tests.formats.samples import DEMO

SPACE = 'xmlns="http://www.w3.org/2000/svg"'
SVG = f'<svg {SPACE} width="80mm" height="40mm" viewBox="0 0 80 40"><rect width="40" height="40" fill="#cc2200"/></svg>'.encode()


def encoded(kind, picture, **more):
    out = io.BytesIO()
    Image.fromarray(picture).save(out, kind, **more)
    return out.getvalue()


@pytest.fixture(scope="module")
def stripes():
    picture = np.full((60, 90, 3), 240, np.uint8)
    picture[:, 30:60] = (200, 30, 20)
    return picture


def test_png_and_jpeg_keep_their_colours_and_tell_their_size(stripes):
    read = artwork_file.read(encoded("PNG", stripes, dpi=(300, 300)))
    assert (read.picture[..., :3] == stripes).all()
    assert (read.picture[..., 3] == 255).all()
    assert read.width_mm == pytest.approx(90 / 300 * 25.4, abs=0.01)
    assert (
        np.abs(artwork_file.read(encoded("JPEG", stripes, quality=95)).picture[30, 45, :3].astype(int) - (200, 30, 20)).max()
        < 6
    )


def test_svg_is_drawn_with_its_millimetres_and_without_a_ground():
    read = artwork_file.read(SVG)
    height, width = read.picture.shape[:2]
    assert (width, height) == (1024, 512)
    assert read.width_mm == pytest.approx(80)
    assert tuple(read.picture[256, 256]) == (0xCC, 0x22, 0, 255)
    assert read.picture[256, 768, 3] == 0


def test_a_large_picture_comes_as_fine_as_a_shot_keeps_it():
    rng = np.random.default_rng(1)
    noise = rng.integers(0, 256, (2500, 1800, 3), np.uint8)
    read = artwork_file.read(encoded("PNG", noise))
    assert max(read.picture.shape[:2]) == 1024
    assert len(read.text()) <= artwork_text.MAX_TEXT


def test_a_mask_is_how_light_the_picture_is():
    picture = np.zeros((10, 20, 4), np.uint8)
    picture[:, 10:] = 255
    read = artwork_file.ReadArtwork(picture=picture, width_mm=None, words="")
    mask = artwork_text.decode(read.mask(), "L")
    assert (mask[:, :10] == 0).all()
    assert (mask[:, 10:] == 255).all()


def bomb():
    """A PNG of a few bytes that claims to be 60,000 pixels square."""

    def chunk(kind, data):
        return len(data).to_bytes(4, "big") + kind + data + zlib.crc32(kind + data).to_bytes(4, "big")

    head = (60_000).to_bytes(4, "big") * 2 + bytes([8, 2, 0, 0, 0])
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(bytes(1000))) + chunk(b"IEND", b"")


HOSTILE = {
    "nothing": b"",
    "words": b"hello",
    "cut off": encoded("PNG", np.random.default_rng(2).integers(0, 256, (99, 99, 3), np.uint8))[:9000],
    "bomb": bomb(),
    "entities": b'<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><svg xmlns="http://www.w3.org/2000/svg">&b;</svg>',
    "no svg": b"<html><body>no</body></html>",
    "vast svg": b'<svg xmlns="http://www.w3.org/2000/svg" width="1e9" height="1e9"><rect width="1" height="1"/></svg',
    "gif": encoded("GIF", np.zeros((9, 9, 3), np.uint8)),
}


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_files_are_refused_in_words(name):
    with pytest.raises(FormatError) as refused:
        artwork_file.read(HOSTILE[name])
    assert len(str(refused.value)) > 15


def test_an_svg_reaches_no_file(tmp_path):
    secret = tmp_path / "secret.png"
    secret.write_bytes(encoded("PNG", np.full((8, 8, 3), 255, np.uint8)))
    svg = f'<svg {SPACE} width="8" height="8"><image href="{secret}" width="8" height="8"/></svg>'
    try:
        read = artwork_file.read(svg.encode())
    except FormatError:
        return
    assert read.picture[..., 3].max() == 0


def test_a_shot_file_keeps_artwork_and_refuses_what_is_damaged(stripes):
    text = artwork_file.read(encoded("PNG", stripes)).text()
    document = json.loads((DEMO / "elder-cordial.json").read_text())
    document["subject"]["bands"][0]["artwork"] = {"picture": text}
    plan = shot_file.from_raw(document).plan()
    assert plan.product.bands[0].artwork.picture.texels.shape[:2] == (60, 90)
    document["subject"]["bands"][0]["artwork"] = {"picture": text[: len(text) // 8 * 4]}
    with pytest.raises((DomainError, FormatError), match="choose the picture again"):
        shot_file.from_raw(document).plan()
