"""What kind of file it is, by its first bytes; nothing is decoded."""

from __future__ import annotations


def sniff(head: bytes) -> str | None:
    """Kind of file by its first bytes: wav, aiff, flac, ogg, matroska, mov, mp3, aac, caf, or None."""
    if head[:4] in {b"RIFF", b"RF64", b"RIFX"} and head[8:12] == b"WAVE":
        return "wav"
    if head[:4] == b"FORM" and head[8:12] in {b"AIFF", b"AIFC"}:
        return "aiff"
    for magic, kind in (
        (b"fLaC", "flac"),
        (b"OggS", "ogg"),
        (b"\x1aE\xdf\xa3", "matroska"),
        (b"caff", "caf"),
        (b"ID3", "mp3"),
    ):
        if head.startswith(magic):
            return kind
    if head[4:8] == b"ftyp":
        return "mov"
    if len(head) >= 2 and head[0] == 0xFF and head[1] & 0xE0 == 0xE0:
        return "aac" if head[1] & 0xF6 == 0xF0 else "mp3"
    return None
