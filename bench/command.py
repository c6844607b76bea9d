"""How long the command takes as a whole process, against a script that only reads the file and
finds overlaps.

Both are started anew each time and timed from outside, in turns, in this one run. The script uses
``csv`` and ``intervaltree`` (a package of the benches only) and knows no rules, no mends and no
fixtures.
"""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory
from time import perf_counter

from fence.formats.rig_csv import write_rig_csv
from rigs import clashing_rig

ONLY_OVERLAPS = """
import csv, sys
from collections import defaultdict
from intervaltree import IntervalTree
trees, found = defaultdict(IntervalTree), 0
with open(sys.argv[1], newline="", encoding="utf-8") as file:
    for row in csv.DictReader(file):
        universe, first, length = int(row["universe"]), int(row["address"]), int(row["channels"])
        for other in trees[universe].overlap(first, first + length):
            print(row["label"], other.data, universe)
            found += 1
        trees[universe].addi(first, first + length, row["label"])
print(found)
"""
ROUNDS = 9


def seconds(command: list[str]) -> float:
    """How long a process takes from start to end, where it came to its end: Python ends with 1 for
    a mistake of its own, ``fence`` for stops."""
    start = perf_counter()
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    taken = perf_counter() - start
    assert done.returncode in (0, 1)
    assert not done.stderr, done.stderr
    return taken


def main() -> None:
    fence = str(Path(sys.executable).with_name("fence"))
    with TemporaryDirectory() as folder:
        rig = Path(folder) / "rig.csv"
        rig.write_text(write_rig_csv(clashing_rig(20_000, 400)), newline="")
        commands = {
            "script": [sys.executable, "-c", ONLY_OVERLAPS, str(rig)],
            "check": [fence, "check", str(rig)],
            "check --json": [fence, "check", "--json", str(rig)],
            "--version": [fence, "--version"],
        }
        taken: dict[str, list[float]] = {name: [] for name in commands}
        for _ in range(ROUNDS):
            for name, command in commands.items():
                taken[name].append(seconds(command))
    print(f"20,000 fixtures, whole processes, median of {ROUNDS}:")
    for name, times in taken.items():
        ratio = median(times) / median(taken["script"])
        print(f"  {name:14}{median(times) * 1000:5.0f} ms   {ratio:.2f} times the script")


if __name__ == "__main__":
    main()
