"""Bytes → text: which encoding a file has. UTF-8 and UTF-16 show themselves; of the 8-bit ones the likeliest is taken.

An 8-bit file reads in each of the Windows encodings without a fault. What tells them apart is which letters come out:
those of western, central, Baltic or Turkish words, or, where most are of the upper half, Cyrillic or Greek ones.
"""

from __future__ import annotations

import codecs
from dataclasses import dataclass

MARKS = ((codecs.BOM_UTF8, "utf-8"), (codecs.BOM_UTF16_LE, "utf-16-le"), (codecs.BOM_UTF16_BE, "utf-16-be"))
#: The letters beyond ASCII of the languages that each encoding is used for; the first of equals is taken.
LETTERS = {
    "cp1252": "äöüßÄÖÜéèêëàâçñóòôáíìîïúùûåøæœÅØÆÉÈÀÇÑÓÁÍÚ€£°§²³µ×–—’‘“”„…•·½¼",
    "cp1250": "ąćęłńóśźżĄĆĘŁŃÓŚŹŻčďěňřšťůžČĎĚŇŘŠŤŮŽáéíúýőűŐŰöüÖÜăâîșțşţ€°–—’“”„…",
    "cp1257": "āčēģīķļņšūžĀČĒĢĪĶĻŅŠŪŽąęėįųõäöüĄĘĖĮŲ€–—’“”„",
    "cp1254": "ğışçöüİĞŞÇÖÜâîû€–—’“”…",
}
#: The letters that these languages use most: nearly every byte is a letter in both.
NON_LATIN = {"cp1251": "оеаинтсрвлкмдпу", "cp1253": "αοιετσνηυρπκμλςάέίό"}
#: Where more of the letters than this are of the upper half, the text is in no Latin script.
MOSTLY = 0.4
#: So many bytes are looked at to tell the 8-bit encodings apart.
SAMPLE = 1 << 22


@dataclass(frozen=True)
class Encoding:
    """The name by which the language knows it, the name for people, and the length of the mark in front."""

    codec: str
    said: str
    mark: int = 0


def encoding_of(content: bytes, complete: bool = True) -> Encoding | None:
    """The encoding of a text; None if it is none. ``complete`` is false for the beginning of a longer one.

    >>> encoding_of("Größe".encode("cp1252")).said, encoding_of("Größe".encode()).said, encoding_of(bytes(8))
    ('Windows-1252', 'UTF-8', None)
    """
    for mark, codec in MARKS:
        if content.startswith(mark):
            said = codec.upper()[:6].rstrip("-")
            return Encoding(codec, f"{said} with mark" if codec == "utf-8" else said, len(mark))
    sixteen = _without_mark(content[:4096])
    if sixteen:
        return Encoding(sixteen, "UTF-16")
    if b"\x00" in content[:SAMPLE]:
        return None
    try:
        codecs.getincrementaldecoder("utf-8")().decode(content, final=complete)
    except UnicodeDecodeError:
        return _eight_bit(content[:SAMPLE])
    return Encoding("utf-8", "UTF-8")


def _without_mark(beginning: bytes) -> str | None:
    """UTF-16 without a mark: every second byte of plain text is zero."""
    if len(beginning) < 4:
        return None
    even, odd = beginning[0::2].count(0), beginning[1::2].count(0)
    half = len(beginning) // 2
    if odd > 0.7 * half and even < 0.1 * half:
        return "utf-16-le"
    return "utf-16-be" if even > 0.7 * half and odd < 0.1 * half else None


def _eight_bit(content: bytes) -> Encoding:
    high = bytes(byte for byte in content if byte >= 0x80)
    plain = sum(65 <= byte < 91 or 97 <= byte < 123 for byte in content)
    families = NON_LATIN if len(high) > MOSTLY * (len(high) + plain) else LETTERS
    counts = {
        codec: sum(letter in letters for letter in high.decode(codec, "replace")) for codec, letters in families.items()
    }
    best = max(counts, key=lambda codec: counts[codec])
    if best == "cp1252" and any(byte in high for byte in (0x81, 0x8D, 0x8F, 0x90, 0x9D)):
        return Encoding("latin-1", "Latin-1")
    return Encoding(best, f"Windows-{best[2:]}")
