"""Levels of a frame in words: stops from grey and output values."""

from __future__ import annotations

import numpy as np

from fotaxis.core.camera.exposure import encode_srgb, stops_from_grey
from fotaxis.core.constants import DEEPEST_BLACK_STOPS, MIDDLE_GREY
from fotaxis.core.stops import BLACK, signed_stops


def stops_of(level: float) -> float:
    """Stops from middle grey of a linear level, held at what reads as nothing."""
    return float(stops_from_grey(np.array(level)))


def code_of(level: float) -> int:
    """Output value 0..255 of a linear level.   Source: IEC 61966-2-1."""
    return int(encode_srgb(np.array([[[level] * 3]], np.float32)).ravel()[0])


def level_words(level: float) -> str:
    """A level in stops from grey and in output values."""
    stops = stops_of(level)
    return f"{signed_stops(stops)} stops · {code_of(level)}" if stops > DEEPEST_BLACK_STOPS else f"{BLACK} · 0"


def peak_words(stops: float) -> str:
    """As level_words, of a level told in stops from grey."""
    return f"{signed_stops(stops)} stops · {code_of(MIDDLE_GREY * 2.0**stops)}"


def percent(share: float) -> str:
    """A share as '12 %'."""
    return f"{share:.0%}".replace("%", " %")
