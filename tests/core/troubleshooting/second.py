"""A second simulation of a rig with hidden faults, written by itself: what somebody would see who
makes the checks that a search asks for.

Nothing of the search or of the practice rig is used, only the show and the sight of a mode.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from random import Random

from fence.core.model.line import Line, Stop
from fence.core.model.profile import Mode
from fence.core.model.show import Show
from fence.core.simulation.bringing import levels_for
from fence.core.simulation.sight import colour_of, sight_of


@dataclass(frozen=True)
class Hidden:
    """A fault that nobody knows of, by the name of its trouble and where it is."""

    trouble: str
    fixture: int | None = None
    line: str = ""
    stop: int | None = None
    box: str = ""
    port: int | None = None
    value: str = ""


@dataclass
class Field:
    """A show with hidden faults. ``slips`` is the share of wrong answers."""

    show: Show
    faults: list[Hidden]
    slips: float = 0.0
    chance: Random = field(default_factory=lambda: Random(1))

    def has(self, trouble: str, **where: object) -> Hidden | None:
        """The fault of that name at a place."""
        for one in self.faults:
            if one.trouble == trouble and all(getattr(one, k) == v for k, v in where.items()):
                return one
        return None

    # what stands where

    def dead(self, fixture: int) -> bool:
        """Without power, or with a flat battery."""
        return bool(self.has("no-power", fixture=fixture) or self.has("flat", fixture=fixture))

    def mode_of(self, fixture: int) -> Mode:
        """The mode that it is really in."""
        one = self.show.fixture(fixture)
        wrong = self.has("wrong-mode", fixture=fixture)
        return self.show.modes[one.profile, wrong.value if wrong else one.mode]

    def starts_of(self, fixture: int) -> list[int]:
        """The slots at which its parts really start."""
        one = self.show.fixture(fixture)
        starts = [entry.slot or 0 for entry in one.patch]
        if wrong := self.has("wrong-address", fixture=fixture):
            starts[0] = int(wrong.value)
        return starts

    # what comes along a line

    def at_stop(self, line: Line, stop: Stop) -> tuple[int | None, bool]:
        """The universe that arrives at a device, and whether it is clean."""
        by_id = {one.id: one for one in line.stops}
        way = [stop]
        while way[-1].after is not None:
            way.append(by_id[way[-1].after])
        universe, clean = self.out_of(line)
        for trouble in ("no-terminator", "second-terminator", "too-many-loads"):
            clean = clean and not self.has(trouble, line=line.name)
        for one in reversed(way):
            here = {"line": line.name, "stop": one.id}
            before = by_id.get(one.after) if one.after is not None else None
            if before is not None:
                if self.has("splitter-off", line=line.name, stop=before.id):
                    universe = None
                if self.has("output-dead", line=line.name, stop=before.id, value=str(one.output)):
                    universe = None
                if before.fixture is not None and self.dead(before.fixture):
                    profile = self.show.profile_of(self.show.fixture(before.fixture))
                    if profile is not None and not profile.passes_unpowered:
                        universe = None
            if self.has("plug-out", **here) or self.has("swapped-pair", **here):
                universe = None
            if one.fixture is not None and self.has("unlinked", fixture=one.fixture):
                universe = None
            if self.has("wrong-cable", **here):
                clean = False
        return universe, clean

    def garbled(self, line: Line, stop: Stop) -> bool:
        """Whether a signal arrives that nobody can read, for a swapped pair alone."""
        whole = Field(self.show, [one for one in self.faults if one.trouble != "swapped-pair"])
        return whole.at_stop(line, stop)[0] is not None

    def out_of(self, line: Line) -> tuple[int | None, bool]:
        """What leaves the output at which a line starts."""
        universe = line.universe
        if line.source is not None and (box := self.show.box_by_id.get(line.source.box)):
            port = box.port(line.source.port)
            universe = port.universe if port else None
            for one in self.faults:
                if one.box != box.name or one.port not in (None, line.source.port):
                    continue
                if one.trouble in ("port-off", "other-network"):
                    return None, True
                if one.trouble == "off-by-one" and universe is not None:
                    universe += 1
                if one.trouble == "wrong-universe" and universe is not None:
                    universe += 7
        return universe, not self.has("second-source", value=str(universe))

    def signals(self, fixture: int) -> list[tuple[int | None, bool]]:
        """What arrives at each part of a fixture."""
        one = self.show.fixture(fixture)
        ways = [
            (line, stop)
            for line in self.show.lines
            for stop in line.stops
            if stop.fixture == fixture
        ]
        found: list[tuple[int | None, bool]] = []
        for entry in one.patch:
            if not ways:
                out = self.has("plug-out", fixture=fixture, line="")
                rough = self.has("wrong-cable", fixture=fixture, line="")
                twice = self.has("second-source", value=str(entry.universe))
                found.append((None if out else entry.universe, not rough and not twice))
                continue
            mine = [way for way in ways if way[0].universe == entry.universe] or ways
            found.append(self.at_stop(*mine[0]))
        return found

    # what is seen

    def shows(self, fixture: int, frames: dict[int, list[int]]) -> tuple[str, object]:
        """What it does with what is sent: a word, and its colour where it is lit."""
        one = self.show.fixture(fixture)
        profile = self.show.profile_of(one)
        words = profile.no_signal.lower() if profile else ""
        alone = any(w in words for w in ("demo", "rainbow", "music", "program", "own"))
        if self.dead(fixture) or self.has("no-lamp", fixture=fixture):
            return "dark", None
        if self.has("own-program", fixture=fixture):
            return "own-program", None
        signals = self.signals(fixture)
        # all that the show carries is sent; what is not brought up is at zero
        frames = {**{u: [0] * 512 for u in self.show.carried}, **frames}
        sent = [
            frames.get(u) if u is not None and not self.has("not-sent", value=str(u)) else None
            for u, _ in signals
        ]
        if self.has("deaf", fixture=fixture) or all(frame is None for frame in sent):
            return ("own-program", None) if alone else ("dark", None)
        if self.has("blackout"):
            sent = [[0] * 512 if frame is not None else None for frame in sent]
        mode, levels = self.mode_of(fixture), []
        for place, part in enumerate(mode.parts):
            frame = sent[min(place, len(sent) - 1)] or [0] * 512
            start = (self.starts_of(fixture) + [0] * 9)[place]
            for offset in range(part.footprint):
                at = start - 1 + offset
                levels.append(frame[at] if start and at < 512 else 0)
        sight = sight_of(mode, levels)
        if sight.running:
            return "own-program", None
        colour = colour_of(sight)
        if not any(colour) or sight.intensity <= 0:
            return "dark", None
        top = max(colour)
        shown = tuple(round(c * sight.intensity * 255 / top) for c in colour)
        return ("lit" if all(clean for _, clean in signals) else "flicker"), (
            shown,
            bool(sight.flashing),
        )

    def planned(self) -> Field:
        """The same rig with nothing wrong."""
        return Field(self.show, [])

    def look(self, fixture: int, frames: dict[int, list[int]]) -> tuple[str, str]:
        """What is seen when a fixture is brought up alone."""
        word, colour = self.shows(fixture, frames)
        if word == "flicker":
            return "flicker", ""
        if word == "own-program":
            return "own-program", ""
        if word == "dark":
            for other in self.show.fixtures:
                if other.id == fixture or self.show.mode_of(other) is None:
                    continue
                if self.lights_always(other.id):
                    continue
                if self.shows(other.id, frames)[0] in ("lit", "flicker"):
                    return "another", other.label
            return "dark", ""
        usual = self.planned().shows(fixture, frames)
        return ("right" if colour == usual[1] else "other-colour"), ""

    def lights_always(self, fixture: int) -> bool:
        """Whether it is lit with nothing sent to it, as planned: a lamp without a dimmer is."""
        return self.planned().shows(fixture, {})[0] == "lit"

    def answer(self, check: dict) -> list[dict]:  # type: ignore[type-arg]
        """What somebody says to a check as the search asks it: one piece of evidence, or two."""
        place = {
            key: check[key] for key in ("fixture", "line", "stop", "box", "port") if check[key]
        }
        item = {"kind": check["kind"], **place}
        told = self._told(check)
        if self.slips and self.chance.random() < self.slips:
            plain = [one["id"] for one in check["answers"] if one["id"] not in VALUED]
            others = [one for one in plain if one != told[0][0]]
            if others:
                return [{**item, "answer": self.chance.choice(others)}]
        return [{**item, "answer": answer, "value": value} for answer, value in told]

    def _told(self, check: dict) -> list[tuple[str, object]]:  # type: ignore[type-arg]
        kind = check["kind"]
        by_label = {one.label: one.id for one in self.show.fixtures}
        fixture = by_label.get(check["fixture"], 0)
        if kind == "look":
            frame = [0] * 512
            for slot, level in check["sends"]["levels"].items():
                frame[int(slot) - 1] = level
            return [self.look(fixture, {check["sends"]["universe"]: frame})]
        if kind == "power":
            return [("off" if self.dead(fixture) else "on", None)]
        if kind == "listens":
            return [("no" if self.has("deaf", fixture=fixture) else "yes", None)]
        if kind == "display":
            mode = self.mode_of(fixture).name
            return [("says", self.starts_of(fixture)[0]), ("mode", mode)]
        if kind == "rdm":
            silent = self.dead(fixture) or all(u is None for u, _ in self.signals(fixture))
            return [("silent" if silent else "answers", None)]
        if kind == "tester":
            line = next(one for one in self.show.lines if one.name == check["line"])
            stop = next(one for one in line.stops if one.id == check["stop"])
            universe, clean = self.at_stop(line, stop)
            if universe is None:
                swapped = self.garbled(line, stop)
                return [("errors" if swapped else "no-signal", None)]
            if universe != line.universe:
                return [("other-universe", None)]
            return [("signal" if clean else "errors", None)]
        if kind == "swap":
            here = {"line": check["line"], "stop": check["stop"]}
            runs = ("plug-out", "swapped-pair", "wrong-cable")
            return [("helps" if any(self.has(r, **here) for r in runs) else "no-change", None)]
        if kind == "desk":
            return [("blackout" if self.has("blackout") else "sends", None)]
        return [self._node(check)]

    def _node(self, check: dict) -> tuple[str, object]:  # type: ignore[type-arg]
        box = next(one for one in self.show.boxes if one.name == check["box"])
        port = box.port(check["port"])
        assert port is not None
        universe = port.universe
        for one in self.faults:
            if one.box != box.name or one.port not in (None, port.number):
                continue
            if one.trouble == "port-off":
                return "off", None
            if universe is not None:
                universe += {"off-by-one": 1, "wrong-universe": 7}.get(one.trouble, 0)
        return ("off", None) if universe is None else ("says", universe - 1 + box.counts_from)


VALUED = {"says", "mode", "another"}


def sends_for(show: Show, fixture: int) -> dict[str, object]:
    """The levels that bring a fixture up alone, as a check names them."""
    one = show.fixture(fixture)
    mode = show.modes[one.profile, one.mode]
    start = one.patch[0].slot or 1
    levels = levels_for(mode)[: mode.parts[0].footprint]
    up = {str(start + at): level for at, level in enumerate(levels) if level}
    return {"universe": one.patch[0].universe, "levels": up}
