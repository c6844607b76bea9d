"""The ``fence`` command as scripts rely on it."""

from __future__ import annotations

import json
import socket
import subprocess
import sys
import urllib.request
from pathlib import Path

import pytest
from click.testing import CliRunner, Result

from fence.cli import main
from fence.core import edits
from fence.core.model.address import Address
from fence.demo import clean_show, demo_show
from fence.formats.files import read_rig, write_rig
from fence.formats.show_json import write_show_json
from fence.library import shipped_profiles
from tests import warm

RIG = "label,channels,universe,address\nA,5,1,10\nB,5,1,13\nC,20,1,505\n"


def run(*words: object) -> Result:
    return CliRunner().invoke(main, [str(word) for word in words])


@pytest.fixture
def rig_file(tmp_path: Path) -> Path:
    """A rig with an overlap and a run past the end."""
    path = tmp_path / "rig.csv"
    path.write_text(RIG)
    return path


def test_check_prints_json_for_scripts(rig_file: Path) -> None:
    """Findings, slots concerned, labels, mends and use of universes are as the contract says; stops
    exit 1."""
    done = run("check", rig_file, "--json")
    assert done.exit_code == 1
    told = json.loads(done.stdout)
    overlap, past = told["findings"]
    assert overlap | {"message": "", "mends": []} == {
        "rule": "overlap",
        "severity": "stop",
        "universe": 1,
        "first": 13,
        "last": 14,
        "fixtures": ["A", "B"],
        "line": None,
        "box": None,
        "message": "",
        "mends": [],
    }
    assert (past["rule"], past["first"], past["last"], past["mends"][0]) == (
        "past-end",
        505,
        524,
        "Move C to 493",
    )
    assert told["universes"] == [
        {"number": 1, "used": 16, "free": 496, "largest_gap": {"first": 18, "length": 487}}
    ]


def test_check_of_a_clean_rig_exits_0(tmp_path: Path) -> None:
    """No stop, exit 0; a full universe has no gap."""
    path = tmp_path / "full.csv"
    path.write_text("label,channels,universe,address\nA,512,1,1\n")
    done = run("check", "--json", path)
    assert done.exit_code == 0
    assert json.loads(done.stdout)["universes"][0]["largest_gap"] is None
    assert "0 stops" in run("check", path).stdout


@pytest.mark.parametrize(
    ("name", "content", "told"),
    [
        ("bad.csv", b"label,channels\nA,x\n", "bad.csv: Line 2: “x” in channels"),
        ("bad.json", b"[" * 100_000, "bad.json: At the file: Invalid JSON"),
        ("bad.txt", b"x", "neither .csv, .json, .xlsx nor .mvr"),
    ],
)
@pytest.mark.parametrize(
    "command", [["check"], ["mend"], ["layout", "--school", "spaced"], ["import", "--show", "X"]]
)
def test_unreadable_files_exit_2_in_one_line(
    tmp_path: Path, name: str, content: bytes, told: str, command: list[str]
) -> None:
    """A file that cannot be read is one line on the error channel and exit 2; nothing is saved."""
    path = tmp_path / name
    path.write_bytes(content)
    extra = ["--db", tmp_path / "new.db"] if command[0] == "import" else []
    done = run(*command, path, *extra)
    assert done.exit_code == 2
    assert told in done.stderr
    assert done.stderr.count("\n") == 1
    assert not (tmp_path / "new.db").exists()
    assert run("check", tmp_path / "missing.csv").exit_code == 2


def test_mend_writes_a_rig_without_stops(rig_file: Path, tmp_path: Path) -> None:
    """The repair says what moves and what stays, and its file checks clean."""
    out = tmp_path / "mended.csv"
    told = json.loads(run("mend", rig_file, "--json", "-o", out).stdout)
    assert told == {
        "moves": [
            {
                "fixture": "B",
                "from": {"universe": 1, "address": 13},
                "to": {"universe": 1, "address": 15},
            },
            {
                "fixture": "C",
                "from": {"universe": 1, "address": 505},
                "to": {"universe": 1, "address": 493},
            },
        ],
        "kept": 1,
        "unplaced": [],
    }
    assert run("check", out).exit_code == 0


def placed(*words: object) -> list[tuple[str, int, int]]:
    told = json.loads(run("layout", *words, "--json").stdout)
    return [(at["fixture"], at["universe"], at["address"]) for at in told["placed"]]


def test_layout_schools(rig_file: Path) -> None:
    """Each school gives the starts that the contract defines."""
    assert placed(rig_file, "--school", "back-to-back") == [("A", 1, 1), ("B", 1, 6), ("C", 1, 11)]
    assert placed(rig_file, "--school", "spaced", "--spare", 3) == [
        ("A", 1, 1),
        ("B", 1, 9),
        ("C", 1, 17),
    ]
    assert placed(rig_file, "--school", "paged", "--page", 200) == [
        ("A", 1, 1),
        ("B", 1, 201),
        ("C", 2, 1),
    ]
    assert placed(rig_file, "--school", "round", "--round", 50) == [
        ("A", 1, 1),
        ("B", 1, 6),
        ("C", 1, 51),
    ]
    told = json.loads(run("layout", rig_file, "--school", "paged", "--page", 16, "--json").stdout)
    assert told["unplaced"] == ["C"]
    for wrong in (
        ["--school", "paged"],
        ["--school", "round"],
        ["--school", "paged", "--page", "0"],
        ["--school", "x"],
    ):
        assert run("layout", rig_file, *wrong).exit_code == 2


@pytest.mark.parametrize(
    ("words", "address", "on"),
    [
        (["214"], 214, [2, 3, 5, 7, 8]),
        (["214", "--zero-based"], 214, [1, 3, 5, 7, 8]),
        (["512", "--zero-based"], 512, [1, 2, 3, 4, 5, 6, 7, 8, 9]),
        (["--on", "2,3,5"], 22, [2, 3, 5]),
        (["--on", "", "--zero-based"], 1, []),
    ],
)
def test_switches(words: list[str], address: int, on: list[int]) -> None:
    """Patterns from addresses and back."""
    assert json.loads(run("switches", *words, "--json").stdout) == {"address": address, "on": on}


@pytest.mark.parametrize(
    "words", [["512"], ["0"], ["513"], ["x"], ["--on", "12"], ["--on", "a"], [], ["5", "--on", "1"]]
)
def test_switches_refuse(words: list[str]) -> None:
    """What the switches cannot hold is refused with exit 2."""
    assert run("switches", *words).exit_code == 2


@pytest.fixture
def show_file(tmp_path: Path) -> Path:
    """The clean demo plan as a file."""
    path = tmp_path / "show.json"
    path.write_text(write_show_json(clean_show()))
    return path


@pytest.mark.parametrize(
    ("label", "words", "kind", "address"),
    [
        ("Vine 1", ["--on", "1,3,6,7"], "right", 101),
        ("Vine 1", ["--says", "101"], "right", 101),
        ("vine 1", ["--on", "2,3,6,8"], "wrong-end", 101),
        ("Vine 1", ["--on", "2,4,5,8"], "inverted", 101),
        ("Vine 1", ["--on", "1,4,5,7"], "upside-down", 101),
        ("Vine 1", ["--on", "1,3,4,6,7"], "one-switch", 101),
        ("Arch 1", ["--says", "100"], "upside-down", 1),
        ("Arch 1", ["--says", "2"], "off-by-one", 1),
        ("Arch 1", ["--says", "6"], "neighbour", 6),
        ("Arch 1", ["--says", "1", "--mode", "3 channel"], "other-mode", 1),
        ("Arch 1", ["--says", "333"], "unknown", None),
    ],
)
def test_readback(
    show_file: Path, label: str, words: list[str], kind: str, address: int | None
) -> None:
    """What a fixture says, and the likeliest cause first, in the shape that scripts rely on."""
    told = json.loads(run("readback", show_file, "--label", label, *words, "--json").stdout)
    assert told["planned"] == {"universe": 4, "address": 101 if label.lower() == "vine 1" else 1}
    assert (told["causes"][0]["kind"], told["causes"][0]["address"]) == (kind, address)
    assert {tuple(sorted(cause)) for cause in told["causes"]} == {
        ("address", "fixture", "kind", "message")
    }
    assert told["causes"][0]["fixture"] == ("Arch 2" if kind == "neighbour" else None)
    assert run("readback", show_file, "--label", label, *words).exit_code == 0


@pytest.mark.parametrize(
    "words",
    [
        ["--label", "Nobody", "--says", "1"],
        ["--label", "Arch 1"],
        ["--label", "Arch 1", "--says", "1", "--on", "1"],
        ["--label", "Arch 1", "--says", "one"],
        ["--label", "Arch 1", "--on", "1,2"],
        ["--label", "Vine 1", "--on", "1,12"],
        ["--label", "Vine 1", "--on", "a"],
        ["--label", "Arch 1", "--says", "1", "--mode", "9 channel"],
    ],
)
def test_readback_refuses(show_file: Path, words: list[str]) -> None:
    """Who is not there, what is no reading, and what the fixture has not: exit 2, one line."""
    done = run("readback", show_file, *words)
    assert done.exit_code == 2
    assert len(done.stderr.strip().splitlines()) == 1


def test_an_earlier_plan_is_known_from_what_was_set(tmp_path: Path) -> None:
    """A file has no log: what was set before counts as the plan of then."""
    show = edits.mark_set(clean_show(), [59])
    path = tmp_path / "show.json"
    path.write_text(write_show_json(edits.place(show, 59, Address(4, 140))))
    told = json.loads(run("readback", path, "--label", "Vine 1", "--says", "101", "--json").stdout)
    assert (told["causes"][0]["kind"], told["says"]) == ("earlier-plan", 101)


def test_database_commands_round_trip(tmp_path: Path) -> None:
    """Import, export, backup and restore give the show back."""
    db, source = tmp_path / "f.db", tmp_path / "demo.json"
    source.write_bytes(write_rig("x.json", demo_show()))
    assert run("import", source, "--show", "Night", "--db", db).exit_code == 0
    assert run("import", source, "--show", "Night", "--db", db).exit_code == 2
    assert run("backup", tmp_path / "b.db", "--db", db).exit_code == 0
    assert run("restore", tmp_path / "b.db", "--db", tmp_path / "other.db").exit_code == 0
    for kind in ("csv", "json"):
        out = tmp_path / f"out.{kind}"
        assert (
            run(
                "export", "Night", "--format", kind, "-o", out, "--db", tmp_path / "other.db"
            ).exit_code
            == 0
        )
        again = read_rig(out.name, out.read_bytes(), known=shipped_profiles())
        assert [f.label for f in again.fixtures] == [f.label for f in demo_show().fixtures]
        assert run("check", out).exit_code == 1
    missing = run("export", "Noon", "--format", "csv", "-o", tmp_path / "x", "--db", db)
    assert (missing.exit_code, "The shows are: “Night”" in missing.stderr) == (2, True)


def test_standard_files_on_the_command_line(tmp_path: Path) -> None:
    """A show goes out as a scene, a workbook and fixture types, and comes in again; a type is
    printed in the shape of a chart."""
    db, source = tmp_path / "f.db", tmp_path / "clean.json"
    source.write_bytes(write_rig("x.json", clean_show()))
    assert run("import", source, "--show", "Night", "--db", db).exit_code == 0
    labels = sorted(f.label for f in clean_show().fixtures)
    for kind in ("mvr", "xlsx"):
        out = tmp_path / f"out.{kind}"
        assert run("export", "Night", "--format", kind, "-o", out, "--db", db).exit_code == 0
        told = run("import", out, "--show", f"From {kind}", "--db", db)
        assert told.exit_code == 0, told.stderr
        again = read_rig(out.name, out.read_bytes(), known=shipped_profiles())
        assert sorted(f.label for f in again.fixtures) == labels
    folder = tmp_path / "types"
    assert run("export", "Night", "--format", "gdtf", "-o", folder, "--db", db).exit_code == 0
    used = {f.profile for f in clean_show().fixtures}
    assert {path.stem for path in folder.glob("*.gdtf")} == used
    told = run("chart", folder / "teasel-sway.gdtf", "--json")
    modes = json.loads(told.stdout)["modes"]
    profile = next(one for one in shipped_profiles() if one.id == "teasel-sway")
    assert [(one["name"], len(one["channels"])) for one in modes] == [
        (mode.name, mode.footprint) for mode in profile.modes
    ]
    assert modes[0]["channels"][0]["function"] == str(
        profile.modes[0].parts[0].channels[0].function
    )
    words = run("chart", folder / "teasel-sway.gdtf")
    assert profile.title in words.stdout
    broken = tmp_path / "broken.gdtf"
    broken.write_bytes(b"nothing")
    assert "This is not a fixture type" in run("chart", broken).stderr


def test_demo_serves_both_shows(tmp_path: Path) -> None:
    """``fence demo`` makes the demo data, serves it on the loopback, and says so; a taken port is
    one line."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    command = [
        sys.executable,
        "-m",
        "fence.cli",
        "demo",
        "--port",
        str(port),
        "--db",
        str(tmp_path / "d.db"),
    ]
    with subprocess.Popen(
        command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
    ) as process:
        try:
            assert process.stdout is not None
            assert f"http://127.0.0.1:{port}" in process.stdout.readline()
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/healthz", timeout=10) as answer:
                assert answer.read() == b"ok"
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=10) as answer:
                page = answer.read().decode()
            assert clean_show().name in page
            second = warm.run(
                [*command[:-1], str(tmp_path / "e.db")], capture_output=True, text=True
            )
            assert second.returncode == 2
            assert f"Port {port}" in second.stderr
        finally:
            process.terminate()
    assert (tmp_path / "d.db.key").stat().st_mode & 0o077 == 0
