"""RDM over Art-Net: packets held against an independent dissector, a stand-in in a process of its
own, the command."""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.model.address import Address
from fence.core.model.show import Show
from fence.core.rdm.packet import Answer, Command, Identity, Packet, Parameter, answer_to
from fence.core.rdm.values import Personality, build_personality
from fence.formats.show_json import write_show_json
from fence.standins.rig import ask
from fence.wire import artnet, rdm
from fence.wire.rdm_ports import Place, hear_all, talking
from tests import warm
from tests.addresses import own
from tests.core.rdm.test_rig_from_devices import SPOT
from tests.faults.conftest import COMMAND, fence
from tests.wire.test_packets import dissected

ONE, OTHER = Identity(0x7FF0, 0x1A), Identity(0x7FF3, 0xABCDEF01)


def test_a_dissector_reads_them(tmp_path: Path) -> None:
    """Tables, requests and RDM inside Art-Net: every field as it was meant, every sum good."""
    asked = Packet(
        ONE, OTHER, Command.SET, Parameter.START_ADDRESS, (300).to_bytes(2), transaction=7
    )
    got = Packet(ONE, OTHER, Command.GET, Parameter.PERSONALITY_WORDS, b"\x02", transaction=8)
    told = answer_to(got, build_personality(Personality(2, "Long", 34)))
    packets = [
        rdm.build_request(0x123),
        rdm.build_flush(0x7FFF),
        *rdm.build_tables(0x123, [ONE, OTHER], port=2),
        rdm.build_rdm(rdm.Carried(0x123, asked)),
        rdm.build_rdm(rdm.Carried(0x123, told)),
    ]
    fields = [
        "artnet.header.opcode",
        "artnet.tod_data.uid_total",
        "artnet.tod_data.tod",
        "rdm.cc",
        "rdm.pid",
        "rdm.tn",
        "rdm.pd.dmx_start_address",
        "rdm.pd.dmx_personality.dmx_slots_required",
        "rdm.checksum.status",
        "rdm.dd",
    ]
    known = subprocess.run(
        ["tshark", "-G", "fields"], capture_output=True, text=True, check=True
    ).stdout
    fields = [field for field in fields if f"\t{field}\t" in known]
    rows = [
        dict(zip(fields, row, strict=False))
        for row in dissected(tmp_path, [(6454, p) for p in packets], fields)
    ]
    assert [int(row["artnet.header.opcode"], 0) for row in rows] == [
        0x8000,
        0x8200,
        0x8100,
        0x8300,
        0x8300,
    ]
    assert int(rows[2]["artnet.tod_data.uid_total"], 0) == 2
    assert [int(row["rdm.pid"], 0) for row in rows[3:]] == [0x00F0, 0x00E1]
    assert [int(row["rdm.tn"], 0) for row in rows[3:]] == [7, 8]
    assert [int(row["rdm.cc"], 0) for row in rows[3:]] == [0x30, 0x21]
    if "rdm.checksum.status" in fields:
        assert {row["rdm.checksum.status"] for row in rows[3:]} <= {"1", "Good"}
    assert int(rows[3]["rdm.pd.dmx_start_address"], 0) == 300


@given(st.binary(max_size=1600), st.integers(0, 0x7FFF), st.data())
def test_anything_is_read_or_refused(tail: bytes, address: int, data: st.DataObject) -> None:
    """Whatever comes, and any of ours with bytes changed or cut, is read or refused; lengths are
    not believed."""
    whole = data.draw(
        st.sampled_from(
            [
                tail,
                rdm.build_request(address),
                rdm.build_flush(address),
                *rdm.build_tables(address, [ONE] * 3),
                rdm.build_rdm(
                    rdm.Carried(address, Packet(ONE, OTHER, Command.GET, Parameter.LABEL))
                ),
            ]
        )
    )
    raw = bytearray(
        whole[: data.draw(st.integers(0, len(whole)))] + tail[: data.draw(st.integers(0, 40))]
    )
    for _ in range(data.draw(st.integers(0, 4))):
        if raw:
            raw[data.draw(st.integers(0, len(raw) - 1))] = data.draw(st.integers(0, 255))
    found = rdm.read_any(bytes(raw))
    if isinstance(found, rdm.Table):
        assert len(found.identities) <= 200
    if isinstance(found, rdm.TableAsked):
        assert len(found.addresses) <= 32


def test_large_tables_come_in_pieces() -> None:
    """Four hundred devices in three packets, none of them longer than the network takes."""
    whole = [Identity(0x7FF0, n) for n in range(450)]
    pieces = [rdm.read_any(packet) for packet in rdm.build_tables(5, whole)]
    assert [len(piece.identities) for piece in pieces if isinstance(piece, rdm.Table)] == [
        200,
        200,
        50,
    ]
    assert [
        one for piece in pieces if isinstance(piece, rdm.Table) for one in piece.identities
    ] == whole


def spots(count: int = 12) -> Show:
    """A rig of spots that talk, on two universes."""
    show = edits.add_fixtures(
        Show("Barn"), edits.AddRun(SPOT, "Short", count, "Spot 1", start=Address(1, 1))
    )
    return edits.add_fixtures(show, edits.AddRun(SPOT, "Long", 3, "Far 1", start=Address(2, 1)))


@contextmanager
def standing_in(show: Show, tmp_path: Path, bind: str, *faults: str) -> Iterator[int]:
    """The practice rig of a show as a process of its own; gives the port at which it can be
    asked."""
    (tmp_path / "rig.json").write_text(write_show_json(show), encoding="utf-8")
    options = [word for fault in faults for word in ("--fault", fault)]
    process = warm.start(
        [
            *COMMAND,
            "standin",
            "rig",
            str(tmp_path / "rig.json"),
            "--bind",
            bind,
            "--tell",
            "0",
            *options,
        ],
        stdout=subprocess.PIPE,
        text=True,
    )
    try:
        assert process.stdout is not None
        yield int(process.stdout.readline().split()[1])
    finally:
        process.send_signal(signal.SIGTERM)
        process.stdout.close() if process.stdout else None
        process.wait(timeout=10)


def test_the_stand_in_answers_as_a_box_does(tmp_path: Path) -> None:
    """All are found though a tenth is lost; what is set there stands, and is what the rig does from
    then on."""
    bind, me = own(41), own(42)
    with standing_in(spots(), tmp_path, bind, "lossy=10", "no-rdm=Spot 3", "slow=Spot 4") as port:
        places = [Place(bind, 0, 1), Place(bind, 1, 2)]
        with talking(me) as lines:
            said, notes = hear_all(lines, places)
            assert not notes
            assert {one.label for one in said} == {f.label for f in spots().fixtures} - {"Spot 3"}
            far = next(one for one in said if one.label == "Far 2")
            assert (far.universe, far.address, far.mode) == (2, 6, "Long")
            lines.talk_with(far).set(far.identity, Parameter.START_ADDRESS, (200).to_bytes(2))
        ask(bind, port, touch={"fixture": spots().fixtures[0].id, "address": 99})
        with talking(me) as lines:
            again, _ = hear_all(lines, places, flush=False)
        at = {one.label: one.address for one in again}
        assert (at["Far 2"], at["Spot 1"]) == (200, 99)


def test_the_command(tmp_path: Path) -> None:
    """List, get and set; what cannot be is refused in one line."""
    bind, me = own(43), own(44)
    where = ["--box", bind, "--bind", me]
    with standing_in(spots(3), tmp_path, bind):
        listed = json.loads(fence("rdm", "list", *where, "--json").stdout)["devices"]
        assert [one["label"] for one in listed][:3] == ["Spot 1", "Spot 2", "Spot 3"]
        second = json.loads(fence("rdm", "list", *where, "--port", 2, "--json").stdout)["devices"]
        assert [one["label"] for one in second] == ["Far 1", "Far 2", "Far 3"]
        name = listed[1]["identity"]
        assert "says address 77" in fence("rdm", "set", name, "address", 77, *where).stdout
        assert (
            json.loads(fence("rdm", "get", name, "address", *where, "--json").stdout)["address"]
            == 77
        )
        for words, problem in (
            (("set", name, "address", 513), "1 to 512"),
            (("set", name, "mode", 9), "out of its range"),
            (("set", name, "factory"), "--yes"),
            (("get", "7FF0:00000999"), "does not answer"),
            (("get", "palm"), "12 digits"),
            (("list", "--port", "9"), "Use 1, 2"),
        ):
            ran = fence("rdm", *words, *where)
            assert ran.returncode == 2
            assert problem in ran.stderr
            assert len(ran.stderr.strip().splitlines()) == 1


def test_boxes_answer_for_their_ports_only(tmp_path: Path) -> None:
    """The stand-in boxes carry to the fixtures of each port; a search names only those."""
    show = edits.add_box(spots(), "Barn node")
    box = show.boxes[-1]
    show = edits.change_box(show, box.id, ip=own(45))
    show = edits.give(edits.count_ports(show, box.id, 1), box.id, {1: 2})
    (tmp_path / "b.json").write_text(write_show_json(show), encoding="utf-8")
    process = warm.start(
        [*COMMAND, "standin", "boxes", str(tmp_path / "b.json"), "--bind", own(45)],
        stdout=subprocess.PIPE,
        text=True,
    )
    try:
        assert process.stdout is not None
        process.stdout.readline()
        listed = json.loads(
            fence("rdm", "list", "--box", own(45), "--bind", own(46), "--json").stdout
        )["devices"]
        assert [one["label"] for one in listed] == ["Far 1", "Far 2", "Far 3"]
    finally:
        process.terminate()
        process.stdout.close() if process.stdout else None
        process.wait(timeout=10)


def test_a_box_that_is_away_is_said_soon() -> None:
    """Nobody at that address: no table, within a few seconds, and a word why."""
    with talking(own(47)) as lines:
        said, notes = hear_all(lines, [Place(own(48), 0, 1)])
    assert not said
    assert "gives no table" in notes[0]


def test_a_busy_network_hides_nobody() -> None:
    """Frames of others pour in at the same port, and the box tells its table as it grows: all are
    waited for, and it is not asked over and over."""
    me, box, over = own(53), own(52), threading.Event()
    asked: list[bytes] = []

    def pour() -> None:
        with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as noisy:
            noisy.bind((own(54), 0))
            while not over.wait(0.002):
                noisy.sendto(artnet.build_dmx(3, bytes(512)), (me, rdm.PORT))

    def answer() -> None:
        with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as fake:
            fake.bind((box, rdm.PORT))
            fake.settimeout(0.1)
            ready.set()
            told = 0
            while not over.is_set():
                try:
                    data, asking = fake.recvfrom(1500)
                    asked.append(data)
                except TimeoutError:
                    told += bool(asked)
                    if told in (2, 7):
                        fake.sendto(rdm.build_tables(0, [ONE, OTHER][: 1 + (told == 7)])[0], asking)

    ready = threading.Event()
    threads = [threading.Thread(target=work, daemon=True) for work in (pour, answer)]
    for thread in threads:
        thread.start()
    assert ready.wait(5)
    with rdm.BoxLine(me, box) as line:
        assert line._asking.getsockname()[1] == rdm.PORT
        found = line.tables([0])
    over.set()
    for thread in threads:
        thread.join()
    assert found == {0: (ONE, OTHER)}
    assert len(asked) == 2


def test_answers_of_others_are_passed_over() -> None:
    """What comes from another address, or answers another question, is not taken for the answer."""
    me, box = own(49), own(50)
    asked = Packet(ONE, OTHER, Command.GET, Parameter.LABEL, transaction=3)
    with (
        socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as fake,
        socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as odd,
    ):
        fake.bind((box, rdm.PORT))
        odd.bind((own(51), 0))
        with rdm.BoxLine(me, box, patience=0.5) as line:
            ours = line._asking.getsockname()
            wrong = answer_to(
                Packet(ONE, OTHER, Command.GET, Parameter.LABEL, transaction=9), b"wrong"
            )
            right = answer_to(asked, b"right")
            odd.sendto(rdm.build_rdm(rdm.Carried(0, answer_to(asked, b"odd"))), ours)
            fake.sendto(rdm.build_rdm(rdm.Carried(0, wrong)), ours)
            fake.sendto(b"Art-Net\0" + os.urandom(40), ours)
            fake.sendto(rdm.build_rdm(rdm.Carried(0, right)), ours)
            answer = line.on(0)(asked)
    assert answer is not None
    assert (answer.data, answer.port) == (b"right", Answer.ACK)
