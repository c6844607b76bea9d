"""Options, arguments and files that several commands share."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from typing import Any

import click

from fence.core.model.errors import FenceError
from fence.core.model.show import Show
from fence.core.model.text import printable
from fence.disk import read_file
from fence.formats.errors import MOST_BYTES, FileError
from fence.formats.files import read_rig
from fence.library import shipped_profiles

json_option = click.option("--json", "as_json", is_flag=True, help="Print JSON for other programs.")
out_option = click.option(
    "-o", "out", type=click.Path(path_type=Path, dir_okay=False), help="Write the result here."
)
file_argument = click.argument("file", type=click.Path(path_type=Path))


def database_option(command: Callable[..., Any]) -> Callable[..., Any]:
    """The ``--db`` option."""
    return click.option(
        "--db",
        "db",
        type=click.Path(path_type=Path, dir_okay=False),
        help="Database file. Default: your data folder.",
    )(command)


def default_database(name: str = "fence.db") -> Path:
    """Where the database is kept when nobody says otherwise; ``FENCE_DB`` says otherwise."""
    if named := os.environ.get("FENCE_DB"):
        return Path(named)
    from platformdirs import user_data_path

    return user_data_path("fence", appauthor=False) / name


def rig_of(path: Path) -> Show:
    """The rig in a file; ``FileError`` starts with the file's name."""
    data = read_file(path, MOST_BYTES)
    try:
        return read_rig(path.name, data, known=shipped_profiles())
    except FenceError as error:
        raise FileError(f"{path.name}: {error}") from None


def say(text: str, **options: Any) -> None:
    """Print a line for people. What a file or a name brought in cannot steer the terminal."""
    click.echo(printable(text), **options)
