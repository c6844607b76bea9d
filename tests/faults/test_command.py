"""The command under faults: one line, the documented exit code, never a trace."""

from __future__ import annotations

import os
import sqlite3
import subprocess
from contextlib import closing
from pathlib import Path

import pytest

from fence.store.backups import is_fence_database
from tests.faults.conftest import COMMAND, as_anybody, fence, free_port, on_a_full_disk, one_line

RIG = "label,channels,universe,address\n" + "".join(f"A{n},5,1,{n}\n" for n in range(1, 300))


@pytest.fixture
def rig_file(tmp_path: Path) -> Path:
    """A rig with very many stops."""
    path = tmp_path / "rig.csv"
    path.write_text(RIG)
    return path


def test_a_database_of_a_newer_fence(database: Path, tmp_path: Path) -> None:
    """Nothing is written into it, and every command says which version it is of."""
    with closing(sqlite3.connect(database)) as connection, connection:
        connection.execute("UPDATE alembic_version SET version_num = '9999'")
    held = database.read_bytes()
    for words in (
        ("serve", "--port", free_port()),
        ("export", "2", "--format", "csv", "-o", tmp_path / "x.csv"),
    ):
        one_line(fence(*words, "--db", database), "made by a newer Fence")
    assert database.read_bytes() == held


@pytest.mark.parametrize("content", [b"no database" * 99, b"SQLite format 3\0" + b"x" * 4000])
def test_what_is_no_database(tmp_path: Path, content: bytes) -> None:
    """A file of something else is refused and stays as it is."""
    path = tmp_path / "x.db"
    path.write_bytes(content)
    one_line(
        fence("export", "2", "--format", "csv", "-o", tmp_path / "x.csv", "--db", path),
        "cannot be opened",
    )
    assert path.read_bytes() == content


def test_a_database_of_another_program(tmp_path: Path) -> None:
    """Its tables are not touched."""
    path = tmp_path / "other.db"
    with closing(sqlite3.connect(path)) as connection, connection:
        connection.execute("CREATE TABLE recipes (name TEXT)")
    one_line(fence("serve", "--db", path, "--port", free_port()), "tables of another program")
    with closing(sqlite3.connect(path)) as connection:
        assert connection.execute("SELECT name FROM sqlite_master").fetchall() == [("recipes",)]


def test_a_full_disk_while_importing(database: Path, rig_file: Path) -> None:
    """The import is refused, and the database stays whole."""
    big = on_a_full_disk(65_536)
    one_line(
        fence("import", rig_file, "--show", "Too much", "--db", database, preexec_fn=big),
        "can only be read|disk",
    )
    assert is_fence_database(database, whole=True)


@pytest.mark.parametrize("words", [("check",), ("check", "--json"), ("mend", "--json"), ("mend",)])
def test_output_that_is_full_or_closed(rig_file: Path, words: tuple[str, ...]) -> None:
    """A result that cannot be printed is a failure, and is not taken for "stops found"."""
    with open("/dev/full", "w") as full:
        done = subprocess.run(
            [*COMMAND, *words, str(rig_file)],
            stdout=full,
            stderr=subprocess.PIPE,
            text=True,
            check=False,
        )
    one_line(done, "cannot be written")
    closed = fence(
        *words,
        rig_file,
        preexec_fn=lambda: os.close(1),
        capture_output=False,
        stderr=subprocess.PIPE,
    )
    assert closed.returncode == 2
    assert "Traceback" not in closed.stderr
    reader = (
        f"{' '.join([*COMMAND, *words])} {rig_file} | head -c 1 >/dev/null; echo ${{PIPESTATUS[0]}}"
    )
    piped = subprocess.run(["bash", "-c", reader], capture_output=True, text=True, check=False)
    assert "Traceback" not in piped.stderr
    all_went_through = "1" if "check" in words else "0"
    assert piped.stdout.strip() in {"2", all_went_through}


def test_places_that_cannot_be_written(tmp_path: Path, rig_file: Path) -> None:
    """A folder without permission, a host that is none, a port that is taken."""
    shut = tmp_path / "shut"
    shut.mkdir()
    shut.chmod(0o500)
    one_line(
        fence("mend", rig_file, "-o", shut / "x.csv", preexec_fn=as_anybody), "cannot be written"
    )
    one_line(
        fence("import", rig_file, "--show", "X", "--db", shut / "x.db", preexec_fn=as_anybody),
        "cannot be opened",
    )
    one_line(fence("serve", "--db", shut / "x.db", preexec_fn=as_anybody), "cannot be written")
    shut.chmod(0o700)
    for host in ("no.such.host.invalid", "999.1.1.1", "a..b", "x" * 300):
        one_line(
            fence("serve", "--host", host, "--db", tmp_path / "h.db", "--port", free_port()),
            "listened on",
        )


@pytest.mark.parametrize("key", [b"", b"short", b"\xff" * 64, b"z" * 64])
def test_a_key_file_that_is_no_key(database: Path, key: bytes) -> None:
    """Sessions are never signed with something that anybody could guess."""
    path = database.with_name(database.name + ".key")
    path.write_bytes(key)
    one_line(fence("serve", "--db", database, "--port", free_port()), "not a key that Fence made")


def test_inputs_that_are_no_files(tmp_path: Path) -> None:
    """A pipe, a folder and a device are refused at once; nothing waits for them."""
    os.mkfifo(tmp_path / "pipe.csv")
    (tmp_path / "folder.csv").mkdir()
    for name in (tmp_path / "pipe.csv", tmp_path / "folder.csv", "/dev/zero"):
        one_line(fence("check", name, timeout=20), "not a file")
    one_line(fence("check", tmp_path / "missing.csv"), "cannot be read")
    os.mkfifo(tmp_path / "pipe.db")
    one_line(
        fence("serve", "--db", tmp_path / "pipe.db", "--port", free_port(), timeout=20),
        "not a file",
    )


def test_a_mistyped_database_makes_none(tmp_path: Path) -> None:
    """Reading commands create nothing where there is nothing."""
    missing = tmp_path / "typo" / "fence.db"
    one_line(
        fence("export", "2", "--format", "csv", "-o", tmp_path / "x.csv", "--db", missing),
        "no database",
    )
    one_line(fence("backup", tmp_path / "b.db", "--db", missing), "no database")
    assert list(tmp_path.iterdir()) == []


def test_a_read_only_database_can_be_read(database: Path, tmp_path: Path) -> None:
    """Without permission to write, in a folder without permission, exports and backups work and
    writing is told."""
    rig = tmp_path / "rig.csv"
    rig.write_text(RIG)
    home, out = tmp_path / "home", tmp_path / "out"
    home.mkdir()
    out.mkdir()
    locked = database.rename(home / "fence.db")
    locked.chmod(0o400)
    home.chmod(0o500)
    try:
        export = fence(
            "export",
            "2",
            "--format",
            "json",
            "-o",
            out / "x.json",
            "--db",
            locked,
            preexec_fn=as_anybody,
        )
        assert export.returncode == 0, export.stderr
        backup = fence("backup", out / "b.db", "--db", locked, preexec_fn=as_anybody)
        assert backup.returncode == 0, backup.stderr
        assert is_fence_database(out / "b.db", whole=True)
        one_line(
            fence("import", rig, "--show", "X", "--db", locked, preexec_fn=as_anybody),
            "can only be read",
        )
    finally:
        home.chmod(0o700)


def test_labels_steer_no_terminal(tmp_path: Path) -> None:
    """A label with a control character is refused by name; one with a line break stays on its
    line."""
    path = tmp_path / "rig.csv"
    path.write_text("label,channels\nA\x9b31mB,5\n")
    done = fence("check", path)
    one_line(done, "control character")
    assert "\x9b" not in done.stderr
    path.write_text('label,channels\n"A\n0 stops in 0 findings",5\n')
    assert fence("check", path).stdout.splitlines()[0].startswith("caution: no-address: A 0 stops")


def test_an_error_that_nobody_foresaw(rig_file: Path) -> None:
    """Also that is one line and exit code 2; the trace comes only when it is asked for."""
    broken = {**os.environ, "PYTHONPATH": str(rig_file.parent)}
    (rig_file.parent / "sitecustomize.py").write_text(
        "import fence.core.checks as c\ndef boom(*a, **k): raise RuntimeError('boom')\nc.check = "
        "c.findings_of = boom\n"
    )
    one_line(fence("check", rig_file, env=broken), "RuntimeError: boom")
    assert "Traceback" in fence("check", rig_file, env={**broken, "FENCE_TRACE": "1"}).stderr
