"""The errors that a person may see. Each says what was wrong and what is accepted."""

from __future__ import annotations


class FenceError(ValueError):
    """Base of every error whose text is meant for a person.

    It is a ``ValueError`` so that readers of files can report it at the place in the file where it
    arose.
    """


class AddressError(FenceError):
    """A DMX address, slot or universe number that cannot be read or does not exist."""


class ChartError(FenceError):
    """A profile, mode or channel that contradicts itself."""


class SetterError(FenceError):
    """An address that the fixture's switches, wheels or menu cannot be set to."""


class EditError(FenceError):
    """An edit that cannot be applied to this show."""
