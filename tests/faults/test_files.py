"""Nothing on disk is lost: backups, restores and results are written beside, and only where they belong."""

from __future__ import annotations

import os
import stat
from collections.abc import Callable
from pathlib import Path

import pytest

from fence.store.backups import is_fence_database
from tests.faults.conftest import Served, fence, on_a_full_disk, one_line

RIG = "label,channels,universe,address\nA,5,1,10\nB,5,1,13\n" + "".join(f"C{n},5,2,{n}\n" for n in range(1, 400))


def test_a_backup_never_writes_over_the_database_itself(
    database: Path, tmp_path: Path, serve: Callable[..., Served]
) -> None:
    """Also while serving, by another name or through a link; afterwards the database is whole."""
    served = serve(database)
    (tmp_path / "link.db").symlink_to(database)
    os.link(database, tmp_path / "hard.db")
    for target in (database, tmp_path / "link.db", tmp_path / "hard.db", f"{database}-wal", f"{database}.key"):
        one_line(fence("backup", target, "--db", database), "the database itself")
    status, page = served.client().get("/shows/2/address")
    assert (status, "Glasshouse" in page) == (200, True)
    served.stop()
    assert is_fence_database(database, whole=True)


def test_a_backup_replaces_only_backups(database: Path, tmp_path: Path) -> None:
    """Another file, a folder or a device stays as it is; an older backup is replaced; ``--force`` takes any file."""
    letter = tmp_path / "letter.txt"
    letter.write_text("dear all")
    one_line(fence("backup", letter, "--db", database), "no Fence database: --force")
    assert letter.read_text() == "dear all"
    one_line(fence("backup", "/dev/null", "--db", database), "no regular file")
    assert stat.S_ISCHR(os.stat("/dev/null").st_mode)
    os.mkfifo(tmp_path / "pipe")
    one_line(fence("backup", tmp_path / "pipe", "--db", database), "no regular file")
    for words in (("copy.db",), ("copy.db",), ("letter.txt", "--force")):
        assert fence("backup", tmp_path / words[0], *words[1:], "--db", database).returncode == 0
        assert is_fence_database(tmp_path / words[0], whole=True)
        assert not list(tmp_path.glob(".*partial"))
    assert stat.S_IMODE((tmp_path / "copy.db").stat().st_mode) == 0o600


@pytest.mark.parametrize("words", [("mend",), ("layout", "--school", "back-to-back")], ids=["mend", "layout"])
def test_a_full_disk_leaves_the_input_as_it_was(tmp_path: Path, words: tuple[str, ...]) -> None:
    """A result written over its own input on a disk without room: told in one line, and the input is whole."""
    rig = tmp_path / "rig.csv"
    rig.write_text(RIG)
    done = fence(*words, rig, "-o", rig, preexec_fn=on_a_full_disk(100))
    one_line(done, "cannot be written")
    assert rig.read_text() == RIG
    assert list(tmp_path.iterdir()) == [rig]


def test_a_full_disk_in_a_backup_and_an_export(database: Path, tmp_path: Path) -> None:
    """The copies that were there before are still there."""
    for name, words in (("b.db", ("backup",)), ("e.json", ("export", "2", "--format", "json", "-o"))):
        before = tmp_path / name
        assert fence(*words, before, "--db", database).returncode == 0
        held = before.read_bytes()
        one_line(fence(*words, before, "--db", database, preexec_fn=on_a_full_disk(4096)), "written")
        assert before.read_bytes() == held


def test_a_link_stays_a_link_and_a_mode_stays(tmp_path: Path) -> None:
    """Writing through a link writes what it points at; who may read the file does not change."""
    rig, link = tmp_path / "rig.csv", tmp_path / "link.csv"
    rig.write_text(RIG)
    rig.chmod(0o640)
    link.symlink_to(rig)
    assert fence("mend", rig, "-o", link).returncode == 0
    assert link.is_symlink()
    assert (stat.S_IMODE(rig.stat().st_mode), rig.read_text() == RIG) == (0o640, False)
    one_line(fence("mend", rig, "-o", "/dev/full.csv/x.csv"), "cannot be written")


def test_the_database_is_its_owners_alone(tmp_path: Path) -> None:
    """A new database, its key and its companions can be read by nobody else."""
    path, rig = tmp_path / "new" / "fence.db", tmp_path / "rig.csv"
    rig.write_text(RIG)
    assert fence("import", rig, "--show", "Mine", "--db", path).returncode == 0
    for found in path.parent.iterdir():
        assert stat.S_IMODE(found.stat().st_mode) & 0o077 == 0, found


def test_restore_needs_the_database_for_itself(database: Path, tmp_path: Path, serve: Callable[..., Served]) -> None:
    """While Fence serves it a restore is refused, and so is a second server; afterwards both go."""
    copy = tmp_path / "copy.db"
    assert fence("backup", copy, "--db", database).returncode == 0
    served = serve(database)
    one_line(fence("restore", copy, "--db", database), "served by another Fence")
    one_line(fence("serve", "--db", database, "--port", served.port + 1), "served by another Fence")
    one_line(fence("demo", "--db", database, "--port", served.port + 1), "served by another Fence")
    assert served.client().post("/shows/2/address/nudge", fixture=1, by=1, revision=1)[0] == 302
    served.process.kill()
    served.process.wait(timeout=30)
    done = fence("restore", copy, "--db", database)
    assert done.returncode == 0, done.stderr
    assert is_fence_database(database, whole=True)
    assert "before-restore" in done.stdout
    assert serve(database).client().get("/shows/2/address")[0] == 200
