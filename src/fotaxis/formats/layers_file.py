"""Fine layers as workers hand them to servers: a header, the layers as float16, and which pixels show the product.

4 bytes length of the header, the header as JSON {keys, width, height, scales, lost_share}, the layers (n, height, width, 3)
float16 each divided by its scale, the mask (height, width) in packed bits
"""

from __future__ import annotations

import json
import struct

import numpy as np

from fotaxis.core.render.layers import Layers


def write(layers: Layers, is_product: np.ndarray) -> bytes:
    """The bytes of layers (n, height, width, 3) and of the product's pixels (height, width)."""
    # float16 ends at 65504 and is coarse below 6e-8: each layer is scaled to peak at 1, the scale goes along.
    peaks = np.maximum(layers.pictures.max(axis=(1, 2, 3)), 1e-12)
    halves = (layers.pictures / peaks[:, None, None, None]).astype(np.float16)
    width, height = layers.size
    header = {
        "keys": layers.keys, "width": width, "height": height, "scales": peaks.tolist(), "lost_share": layers.lost_share
    }  # fmt: skip
    head = json.dumps(header).encode()
    head += b" " * (-(len(head) + 4) % 4)
    data: bytes = struct.pack("<I", len(head)) + head + halves.tobytes() + np.packbits(is_product).tobytes()
    return data


def _opened(data: bytes) -> tuple[dict, int, int]:
    """Header, where the layers begin, and where they end."""
    begin = 4 + struct.unpack_from("<I", data)[0]
    header = json.loads(data[4:begin])
    return header, begin, begin + len(header["keys"]) * header["width"] * header["height"] * 6


def read(data: bytes) -> tuple[Layers, np.ndarray]:
    """Layers, float32, and the product's pixels, bool (height, width)."""
    header, begin, end = _opened(data)
    shape = (len(header["keys"]), header["height"], header["width"], 3)
    halves = np.frombuffer(data, np.float16, offset=begin, count=(end - begin) // 2).reshape(shape)
    pictures = halves.astype(np.float32) * np.array(header["scales"], np.float32)[:, None, None, None]
    bits = np.unpackbits(np.frombuffer(data, np.uint8, offset=end), count=shape[1] * shape[2])
    layers = Layers(keys=tuple(header["keys"]), pictures=pictures, lost_share=header["lost_share"])
    return layers, bits.astype(bool).reshape(shape[1:3])


def payload(data: bytes) -> bytes:
    """The layers alone, as they stand in the file."""
    _, begin, end = _opened(data)
    return data[begin:end]


def scales(data: bytes) -> list[float]:
    """What each layer was divided by."""
    found: list[float] = _opened(data)[0]["scales"]
    return found
