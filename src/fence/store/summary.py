"""What the rules said of a show, kept with the revision and the rules that it belongs to.

The list of shows reads only this. A verdict of other rules than the ones that are installed is not
taken: the key of the rules is a digest of the core's code, so it changes with every change there.
"""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from functools import lru_cache
from hashlib import sha256
from pathlib import Path

import fence.core
from fence.core.checks import Analysis
from fence.core.model.show import Show


@dataclass(frozen=True, slots=True)
class Summary:
    """How large a show is, and how many findings of each kind the rules have."""

    fixtures: int
    universes: int
    stops: int
    cautions: int
    notes: int


def summary_of(show: Show, analysis: Analysis) -> Summary:
    """The summary of a show of which the rules said ``analysis``."""
    verdict = analysis.verdict
    return Summary(
        len(show.fixtures), len(show.universes), verdict.stops, verdict.cautions, verdict.notes
    )


@lru_cache(maxsize=1)
def rules_key() -> str:
    """A digest of the core's code: verdicts of other code are not believed."""
    folder = Path(fence.core.__file__).parent
    digest = sha256()
    for path in sorted(folder.rglob("*.py")):
        digest.update(path.read_bytes())
    return digest.hexdigest()[:16]


def write_summary(summary: Summary, revision: int) -> str:
    """The summary as it is kept, with the revision and the rules that it belongs to."""
    return json.dumps({"revision": revision, "rules": rules_key(), **asdict(summary)})


def read_summary(kept: str | None, revision: int) -> Summary | None:
    """The kept summary, if it is of this revision and of the rules that are installed."""
    try:
        held = json.loads(kept or "null")
        if held["revision"] != revision or held["rules"] != rules_key():
            return None
        return Summary(**{name: int(held[name]) for name in Summary.__slots__})
    except (ValueError, KeyError, TypeError):
        return None
