"""The error of a file that cannot be read: where, and what is accepted."""

from __future__ import annotations

from fence.core.model.errors import FenceError

MOST_BYTES = 16 * 1024 * 1024
"""Largest file that is read, in bytes. A rig of 20,000 fixtures takes about two million."""


class FileError(FenceError):
    """A file that cannot be understood as a whole. ``line`` is counted from 1, None where it is not
    one line."""

    def __init__(self, message: str, line: int | None = None) -> None:
        super().__init__(f"Line {line}: {message}" if line else message)
        self.line = line


def decoded(data: bytes, *, of_spreadsheet: bool = False) -> str:
    """The text of a file in UTF-8, with or without a byte order mark; ``FileError`` for anything
    else. A table that was saved ``of_spreadsheet`` may be in UTF-16 or Windows-1252 as well, as
    they save it."""
    if len(data) > MOST_BYTES:
        size, most = len(data) / 1024 / 1024, MOST_BYTES // 1024 // 1024
        raise FileError(f"The file has {size:.0f} MB. Use up to {most} MB.")
    text = _saved_so(data) if of_spreadsheet else None
    if text is None:
        text = _utf_8(data, of_spreadsheet=of_spreadsheet)
    if not text.replace("\ufeff", "").strip():
        raise FileError(
            "The file is empty. Accepted: a rig as CSV with a first line naming the columns, or "
            "as JSON."
        )
    if "\0" in text:
        line = text.count("\n", 0, text.index("\0")) + 1
        raise FileError("A NUL byte stands here, which is not text. Accepted: UTF-8 text.", line)
    return text


def _utf_8(data: bytes, *, of_spreadsheet: bool) -> str:
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        also = ", UTF-16 and Windows-1252" if of_spreadsheet else ""
        raise FileError(
            f"This is not UTF-8 text. Accepted: UTF-8, with or without a byte order mark{also}.",
            line,
        ) from None


def _saved_so(data: bytes) -> str | None:
    """A text as spreadsheets save it: UTF-16 with its mark, or Windows-1252 where it is no UTF-8
    and every letter stands there. None for anything else."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        try:
            return data.decode("utf-16")
        except UnicodeDecodeError:
            return None
    try:
        data.decode("utf-8-sig")
    except UnicodeDecodeError:
        if b"\0" in data:
            return None
        try:
            return data.decode("cp1252")
        except UnicodeDecodeError:
            return None
    return None
