"""The web application: pages rendered on the server, fragments swapped by htmx."""

from __future__ import annotations

from fence.web.app import create_app

__all__ = ["create_app"]
