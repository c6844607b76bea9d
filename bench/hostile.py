"""What the limits cost: CSV files up to the largest that is read, and texts that are made to stall
the reader."""

from __future__ import annotations

import sys
from pathlib import Path
from time import perf_counter

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.faults.test_texts import STALLING

from fence.core.charts.reading import read_chart_text
from fence.formats.rig_csv import read_rig_csv

KINDS = {
    "one type": lambda n: f"A{n},5,T,M,m,{n % 60_000 + 1},{n % 500 + 1},",
    "a mode a row": lambda n: f"A{n},{n % 9},T,M,m{n},{n % 60_000 + 1},{n % 500 + 1},",
    "a type a row": lambda n: f"A{n},5,T,M{n},m,{n % 60_000 + 1},{n % 500 + 1},",
    "a footprint a row": lambda n: f"A{n},{n % 500}+{n // 500},T,M,m,1,,",
    "long notes": lambda n: f"A{n},5,T,M,m,{n % 60_000 + 1},{n % 500 + 1},{'x' * 280}",
}
ROWS = (12_500, 25_000, 50_000)


def seconds(work: object) -> float:
    """The shorter of two runs."""
    times = []
    for _ in range(2):
        start = perf_counter()
        work()  # type: ignore[operator]
        times.append(perf_counter() - start)
    return min(times)


def main() -> None:
    print(
        f"CSV of {', '.join(f'{rows:,}' for rows in ROWS)} rows, seconds; twice the rows should "
        "take twice as long:"
    )
    for name, row in KINDS.items():
        taken = []
        for rows in ROWS:
            lines = [
                "label,channels,maker,model,mode,universe,address,note",
                *map(row, range(rows)),
            ]
            data = "\n".join(lines).encode()
            taken.append(seconds(lambda data=data: read_rig_csv(data)))
        growth = taken[-1] / taken[-2]
        print(
            f"  {name:18}{'  '.join(f'{found:.2f}' for found in taken)}   the last doubling took "
            f"{growth:.1f} times"
        )
    worst = sorted(
        (
            (seconds(lambda text=text: read_chart_text(text)), name)
            for name, text in STALLING.items()
        )
    )[-3:]
    print(f"{len(STALLING)} stalling texts of 200 kB; the slowest:")
    for found, name in reversed(worst):
        print(f"  {name:26}{found:.2f} s (at most 2)")


if __name__ == "__main__":
    main()
