"""Packages of XML, as the standards of fixture types and scenes have them: opened within limits.

A package is a ZIP archive. Nothing of it is written to disk; nothing is unpacked beyond a bound; no
XML is read that declares entities, or that is nested without end.
"""

from __future__ import annotations

import zlib
from collections.abc import Iterator
from io import BytesIO
from xml.etree.ElementTree import Element, ParseError
from zipfile import BadZipFile, ZipFile

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import iterparse

from fence.formats.errors import FileError

MOST_ENTRIES = 5_000
MOST_XML = 64 * 2**20
"""Bytes of the description in a package, unpacked."""
MOST_UNPACKED = 128 * 2**20
"""Bytes of all that is unpacked of one package."""
DAMAGED = (
    BadZipFile,
    zlib.error,
    EOFError,
    RuntimeError,
    NotImplementedError,
    OSError,
    ValueError,
    OverflowError,
)
"""What a package meets that is not as it should be."""
DEEPEST, MOST_ELEMENTS = 100, 1_500_000


class Package:
    """A package that was opened; ``FileError`` says why one cannot be."""

    def __init__(self, data: bytes, what: str) -> None:
        self.what, self._unpacked = what, 0
        try:
            self._zip = ZipFile(BytesIO(data))
            names = self._zip.namelist()
        except (BadZipFile, ValueError, OSError, NotImplementedError, OverflowError) as error:
            raise FileError(f"This is not {what}: it cannot be opened as a package.") from error
        if len(names) > MOST_ENTRIES:
            raise FileError(f"The package has {len(names)} files. Use up to {MOST_ENTRIES}.")
        self.names = names

    def read(self, name: str, most: int = MOST_XML) -> bytes:
        """A file of the package, up to a bound, whatever the package says of its size."""
        most = min(most, MOST_UNPACKED - self._unpacked)
        found = bytearray()
        try:
            with self._zip.open(name) as held:
                while piece := held.read(1 << 16):
                    found += piece
                    if len(found) > most:
                        raise FileError(
                            f"The file “{name[:60]}” is larger than {most // 2**20} MB unpacked: "
                            "that is more than is read."
                        )
        except FileError:
            raise
        except KeyError:
            raise FileError(f"This is not {self.what}: it lacks “{name[:60]}”.") from None
        except DAMAGED:
            raise FileError(f"The file “{name[:60]}” in the package is damaged.") from None
        self._unpacked += len(found)
        return bytes(found)


def read_xml(data: bytes, what: str) -> Element:
    """The root of an XML text within limits; ``FileError`` says what is wrong with it."""
    try:
        wide = data[:2] in (b"\xff\xfe", b"\xfe\xff")
        root = next(_roots(data if wide else data.rstrip(b"\0"), what), None)
    except DefusedXmlException:
        raise FileError(
            f"The description in {what} declares entities. Accepted is plain XML without them."
        ) from None
    except (ParseError, ValueError, LookupError) as error:
        raise FileError(f"The description in {what} is not XML ({error}).") from None
    if root is None:
        raise FileError(f"The description in {what} is empty.")
    return root


def _roots(data: bytes, what: str) -> Iterator[Element]:
    """The root as it ends; all within it is counted on the way."""
    depth = count = 0
    for event, element in iterparse(BytesIO(data), events=("start", "end"), forbid_dtd=True):
        if event == "end":
            depth -= 1
            if not depth:
                yield element
            continue
        depth, count = depth + 1, count + 1
        if depth > DEEPEST:
            raise FileError(f"The description in {what} is nested deeper than {DEEPEST} levels.")
        if count > MOST_ELEMENTS:
            raise FileError(f"The description in {what} has more than {MOST_ELEMENTS:,} elements.")
