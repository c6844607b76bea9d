"""Lengths as people type them."""

from __future__ import annotations

from fence.core.model.errors import EditError


def metres(words: str, what: str = "a length") -> float | None:
    """Metres from ``8``, ``2.5``, ``2,5 m``; None for nothing, a dash or a question mark.
    ``EditError`` names ``what`` was meant."""
    tidy = words.strip().casefold().removesuffix("m").strip().replace(",", ".")
    if tidy in ("", "-", "–", "?"):
        return None
    try:
        return float(tidy)
    except ValueError:
        raise EditError(
            f"“{words.strip()[:20]}” is not a length for {what}: type metres, such as 8 or 2.5."
        ) from None
