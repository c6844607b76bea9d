"""Cases with hidden faults as files: a show, a title, and the faults, sealed so that nobody reads
them by looking at the file. It is no secret: whoever opens the seal on purpose, can."""

from __future__ import annotations

import binascii
import json
import zlib
from base64 import b64decode, b64encode
from dataclasses import dataclass

from pydantic import TypeAdapter, ValidationError

from fence.core.model.errors import FenceError
from fence.core.model.show import Show
from fence.core.model.text import check_text
from fence.core.simulation.faults import Fault
from fence.formats.errors import FileError, decoded
from fence.formats.show_json import read_show_json, write_show_json

FORMAT, VERSION = "fence-case", 1
LONGEST_SEAL = 20_000
MOST_FAULTS = 5
FAULTS = TypeAdapter(tuple[Fault, ...])


@dataclass(frozen=True, slots=True)
class CaseFile:
    """A case: its title, the rig, and what is hidden in it."""

    title: str
    show: Show
    faults: tuple[Fault, ...]


def write_case(case: CaseFile) -> str:
    """The case as JSON text."""
    sealed = b64encode(zlib.compress(FAULTS.dump_json(case.faults))).decode()
    show = json.loads(write_show_json(case.show))
    file = {
        "format": FORMAT,
        "version": VERSION,
        "title": case.title,
        "sealed": sealed,
        "show": show,
    }
    return json.dumps(file, indent=2, ensure_ascii=False) + "\n"


def read_case(data: bytes) -> CaseFile:
    """Read a case; ``FileError`` says what is wrong and what is accepted."""
    try:
        file = json.loads(decoded(data))
    except (ValueError, RecursionError):
        raise FileError(f"This is no case: a JSON file of format “{FORMAT}” is.") from None
    if not isinstance(file, dict) or file.get("format") != FORMAT:
        raise FileError(f"This is no case: a JSON file of format “{FORMAT}” is.")
    if file.get("version") != VERSION:
        raise FileError(f"This case is of another version. Use version {VERSION}.")
    title, sealed = str(file.get("title") or ""), str(file.get("sealed"))
    try:
        check_text("title", title)
        faults = _unsealed(sealed)
    except FenceError as error:
        raise FileError(f"This case cannot be used: {error}") from None
    except (ValueError, binascii.Error, zlib.error, ValidationError):
        raise FileError("The seal of this case is broken: take the file anew.") from None
    show = read_show_json(json.dumps(file.get("show")).encode())
    return CaseFile(title, show, faults)


def _unsealed(sealed: str) -> tuple[Fault, ...]:
    if len(sealed) > LONGEST_SEAL:
        raise ValueError(sealed[:20])
    opened = zlib.decompressobj()
    text = opened.decompress(b64decode(sealed, validate=True), LONGEST_SEAL)
    faults = FAULTS.validate_json(text)
    if not 1 <= len(faults) <= MOST_FAULTS:
        raise ValueError(len(faults))
    return faults
