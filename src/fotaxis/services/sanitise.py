"""Text as people type it, made fit to be kept."""

from __future__ import annotations


def keepable(text: str) -> str:
    """Text without characters that a database or page cannot hold: control characters (line ends stay), lone surrogates."""
    return "".join(ch for ch in text if ch in "\n\t" or (ord(ch) >= 32 and not 0xD800 <= ord(ch) <= 0xDFFF))
