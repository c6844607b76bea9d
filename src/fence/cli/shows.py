"""Commands on the database: shows in and out, backup and restore."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import click

from fence.cli.common import database_option, default_database, file_argument, rig_of, say
from fence.core.model.show import Show
from fence.core.model.text import counted
from fence.disk import write_bytes
from fence.formats.csv_cells import Delimiter
from fence.formats.files import write_rig
from fence.store.backups import backup, lost_by, restore
from fence.store.database import open_engine
from fence.store.errors import StorageError
from fence.store.shows import NoSuchShow, ShowStore

WHO = "fence command"


def open_store(db: Path | None, *, create: bool) -> ShowStore:
    """The store on the database that the person named, or on the default one."""
    return ShowStore(open_engine(db or default_database(), create=create))


@click.command(name="export")
@click.argument("show")
@click.option(
    "--format",
    "kind",
    type=click.Choice(["csv", "json", "xlsx", "mvr", "gdtf"]),
    help="Else by the ending of OUT.",
)
@click.option(
    "--delimiter",
    type=click.Choice([str(one) for one in Delimiter]),
    default=str(Delimiter.COMMA),
    help="Between the cells of CSV.",
)
@click.option("--bom", is_flag=True, help="Mark CSV as UTF-8, as spreadsheets like it.")
@click.option("-o", "out", required=True, type=click.Path(path_type=Path))
@database_option
def export_command(
    show: str, kind: str | None, delimiter: str, bom: bool, out: Path, db: Path | None
) -> None:
    """Write the SHOW of that name (or number) to a file; as gdtf the types that it uses, each as a
    file in the folder OUT."""
    saved = open_store(db, create=False).find(show)
    if kind == "gdtf":
        _types(saved.show, out)
        return
    written = write_rig(
        f"rig.{kind}" if kind else out.name,
        saved.show,
        saved.key,
        delimiter=Delimiter(delimiter),
        marked=bom,
    )
    write_bytes(out, written)
    say(f"{saved.show.name}: {counted(len(saved.show.fixtures), 'fixture')} written to {out}")


def _types(show: Show, folder: Path) -> None:
    """The types of a show as files of the standard."""
    from fence.formats.gdtf.writing import write_gdtf  # its packages are slow to load

    used = {fixture.profile for fixture in show.fixtures}
    folder.mkdir(parents=True, exist_ok=True)
    types = [profile for profile in show.profiles if profile.id in used]
    for profile in types:
        write_bytes(folder / f"{profile.id}.gdtf", write_gdtf(profile))
    say(f"{show.name}: {counted(len(types), 'fixture type')} written to {folder}")


@click.command(name="import")
@file_argument
@click.option("--show", "name", required=True, help="Name of the new show.")
@database_option
def import_command(file: Path, name: str, db: Path | None) -> None:
    """Save the rig in FILE as a new show. A file with any bad row is refused as a whole."""
    show = replace(rig_of(file), name=name)
    path = db or default_database()
    store = open_store(path, create=True)
    opened = path.stat()
    if any(summary.name == name for summary in store.list_shows()):
        raise NoSuchShow(f"There is a show “{name}” already: choose another name.")
    saved = store.create(show, who=WHO)
    if not path.exists() or path.stat().st_ino != opened.st_ino:
        raise StorageError(
            f"{path} was replaced meanwhile (by a restore?), so the show is not in it: import it "
            "again."
        )
    say(
        f"{saved.show.name}: {counted(len(saved.show.fixtures), 'fixture')} saved as show "
        f"{saved.id}"
    )


@click.command(name="backup")
@click.argument("out", type=click.Path(path_type=Path, dir_okay=False))
@click.option("--force", is_flag=True, help="Write over a file that is not a Fence database.")
@database_option
def backup_command(out: Path, force: bool, db: Path | None) -> None:
    """Write a copy of the whole database, also while Fence is running."""
    backup(db or default_database(), out, force=force)
    say(f"Backup written to {out}")


@click.command(name="restore")
@click.argument("source", metavar="IN", type=click.Path(path_type=Path))
@click.option("--look", is_flag=True, help="Only say what would be lost.")
@database_option
def restore_command(source: Path, look: bool, db: Path | None) -> None:
    """Put a backup in the place of the database. Stop Fence first. What is lost by it is said, and
    kept."""
    path = db or default_database()
    lost = lost_by(source, path)
    if look:
        for line in lost or ["Nothing."]:
            say(f"Would be lost: {line}")
        return
    kept = restore(source, path)
    for line in lost:
        say(f"No longer in it: {line}")
    say(f"{path} restored." + (f" What was there is kept as {kept}" if kept else ""))
