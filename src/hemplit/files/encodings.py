"""Bytes → text: which encoding a file has. UTF-8 and UTF-16 show themselves; of the 8-bit ones the likeliest is taken.

An 8-bit file reads in each of the Windows encodings without a fault. What tells them apart is which letters come out:
those of western, central, Baltic or Turkish words. Where many are of the upper half, the text is in another script,
and a library that knows how these languages look tells which.

A file of UTF-8 with a few bytes that are none stays UTF-8; those bytes are read as what Windows writes for them.
"""

from __future__ import annotations

import codecs

from hemplit.dataclasses import dataclass

MARKS = ((codecs.BOM_UTF8, "utf-8"), (codecs.BOM_UTF16_LE, "utf-16-le"), (codecs.BOM_UTF16_BE, "utf-16-be"))
#: The letters beyond ASCII of the languages that each encoding is used for; the first of equals is taken.
LETTERS = {
    "cp1252": "äöüßÄÖÜéèêëàâçñóòôáíìîïúùûåøæœÅØÆÉÈÀÇÑÓÁÍÚ€£°§²³µ×–—’‘“”„…•·½¼",
    "cp1250": "ąćęłńóśźżĄĆĘŁŃÓŚŹŻčďěňřšťůžČĎĚŇŘŠŤŮŽáéíúýőűŐŰöüÖÜăâîșțşţ€°–—’“”„…",
    "cp1257": "āčēģīķļņšūžĀČĒĢĪĶĻŅŠŪŽąęėįųõäöüĄĘĖĮŲ€–—’“”„",
    "cp1254": "ğışçöüİĞŞÇÖÜâîû€–—’“”…",
}
#: Where more of the letters than this are of the upper half, the text is in no Latin script: Latin ones have a tenth.
MOSTLY = 0.25
FEWEST = 8
#: What the library may say; in Latin letters it takes a word for another script.
OTHER_SCRIPTS = frozenset(
    "big5 big5hkscs cp932 shift_jis shift_jis_2004 shift_jisx0213 euc_jp euc_jis_2004 euc_jisx0213 iso2022_jp cp949"
    " euc_kr johab gb2312 gbk gb18030 hz cp1251 koi8_r koi8_u koi8_t cp866 cp855 cp1125 iso8859_5 mac_cyrillic ptcp154"
    " kz1048 cp1253 iso8859_7 cp737 mac_greek cp1255 iso8859_8 cp862 cp1256 iso8859_6 cp864 cp874 iso8859_11 tis_620"
    " cp1258".split()
)
#: The library looks at so many bytes, from the first of the upper half on; it gives 12 of 12 encodings from 60 bytes.
FOR_LIBRARY = 1 << 16
#: A file with more of such bytes for each sign of UTF-8 is in another encoding.
STRAY = 0.1
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


@dataclass(frozen=True)
class Mended:
    """A text in UTF-8, and the places of the bytes that were none; each is read as the sign that Windows writes so."""

    text: bytes
    places: tuple[int, ...]


def mended(content: bytes) -> Mended | None:
    """The text if it is UTF-8 but for a few bytes; None if it is in another encoding.

    >>> mended("Größe ".encode() * 12 + bytes([0xE9])).text.decode()[-7:]
    'Größe é'
    """
    places: list[int] = []
    most = STRAY * sum(content.count(bytes([lead])) for lead in range(0xC2, 0xF5))

    def mend(error: UnicodeError) -> tuple[str, int]:
        assert isinstance(error, UnicodeDecodeError)
        places.append(error.start)
        if len(places) > most:
            raise error
        return as_written(content[error.start]), error.start + 1

    codecs.register_error("hemplit-mend", mend)
    try:
        text = content.decode("utf-8", "hemplit-mend")
    except UnicodeDecodeError:
        return None
    return Mended(text.encode(), tuple(places))


def as_written(byte: int) -> str:
    """The sign that western Windows writes with a byte, or else Latin-1.

    >>> as_written(0xE9)
    'é'
    """
    try:
        return bytes([byte]).decode("cp1252")
    except UnicodeDecodeError:
        return chr(byte)


def _eight_bit(content: bytes) -> Encoding:
    high = bytes(byte for byte in content if byte >= 0x80)
    plain = sum(65 <= byte < 91 or 97 <= byte < 123 for byte in content)
    if len(high) >= FEWEST and len(high) > MOSTLY * (len(high) + plain):
        found = _other_script(content)
        if found:
            return found
    counts = {
        codec: sum(letter in letters for letter in high.decode(codec, "replace")) for codec, letters in LETTERS.items()
    }
    best = max(counts, key=lambda codec: counts[codec])
    if best == "cp1252" and any(byte in high for byte in (0x81, 0x8D, 0x8F, 0x90, 0x9D)):
        return Encoding("latin-1", "Latin-1")
    return Encoding(best, f"Windows-{best[2:]}")


def _other_script(content: bytes) -> Encoding | None:
    import charset_normalizer

    first = next(place for place, byte in enumerate(content) if byte >= 0x80)
    start = content.rfind(b"\n", 0, first) + 1
    sample = content[start : start + FOR_LIBRARY]
    whole = sample[: sample.rfind(b"\n") + 1] or sample  # a sign of several bytes may be cut off at the end
    found = charset_normalizer.from_bytes(whole).best()
    if found is None or found.encoding not in OTHER_SCRIPTS:
        return None
    codec = codecs.lookup(found.encoding).name
    return Encoding(codec, f"Windows-{codec[2:]}" if codec.startswith("cp12") else codec.upper().replace("_", "-"))
