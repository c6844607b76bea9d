"""A type that comes in beside the chart on the shelf that it is."""

from __future__ import annotations

from dataclasses import replace

from fence.core.model.profile import Profile
from fence.formats.gdtf.reading import read_gdtf
from fence.formats.gdtf.writing import write_gdtf

CARRIED = (
    "maker",
    "model",
    "modes",
    "connectors_in",
    "connectors_out",
    "rdm",
    "weight_kg",
    "power_w",
    "emitters",
    "rdm_model",
)
"""What a file of the standard says of a type; of all else the chart on the shelf knows more."""


def beside(read: Profile, held: Profile) -> Profile:
    """The chart that a type is, where one of its id is on the shelf: that one itself where the file
    says the same of it, else what the file says with what only the shelf knows (how an address is
    set, what it does without a signal, its battery)."""
    same = read_gdtf(write_gdtf(held), [held.id]).profile
    if replace(same, id=read.id) == read:
        return held
    return replace(held, **{name: getattr(read, name) for name in CARRIED}, source=read.source)
