"""Boxes of the network: read from a file, kept, changed and undone, given back."""

from __future__ import annotations

import json
from dataclasses import replace

import pytest

from fence.core.edits.difference import apply_difference, difference
from fence.core.model.box import Port
from fence.core.model.show import Show
from fence.formats.errors import FileError
from fence.formats.show_json import read_show_json, write_show_json
from fence.store.shows import ShowStore

GATE = {
    "id": 3,
    "name": "Gate",
    "kind": "node",
    "ip": "10.0.0.5",
    "prefix": 16,
    "protocol": "artnet",
    "counts_from": 0,
    "way": "unicast",
    "priority": 90,
    "sends": None,
    "ports": [
        {"number": 1, "universe": 4, "says": 3},
        {"number": 2, "universe": None, "says": None},
    ],
}


def show_with(*boxes: object) -> bytes:
    """A show file with nodes."""
    document = json.loads(write_show_json(Show("S")))
    document["show"]["nodes"] = boxes
    return json.dumps(document).encode()


def test_boxes_come_back_from_a_file_and_the_store(store: ShowStore) -> None:
    """As scripts write them; a change is one log entry that can be undone; a line may begin at a
    port."""
    show = read_show_json(show_with(GATE))
    given = json.loads(write_show_json(show))["show"]["nodes"][0]
    assert {**given, **GATE, "ports": given["ports"]} == given
    assert [
        {name: port[name] for name in ("number", "universe", "says")} for port in given["ports"]
    ] == GATE["ports"]
    saved = store.create(show, who="T")
    assert store.get(saved.id).show == show
    gate = show.boxes[0]
    after = replace(
        show, boxes=(replace(gate, ports=(Port(1, 5),)), replace(gate, id=4, name="Other"))
    )
    found = difference(show, after)
    assert apply_difference(after, found.reversed()) == show
    changed = store.save(store.get(saved.id), after, who="T")
    words = store.history(saved.id)[0].words
    assert words.startswith("Gate: ")
    assert words.endswith("; Added node Other")
    assert ShowStore(store.engine).get(saved.id).show == after
    store.undo(saved.id, revision=changed.revision, who="T")
    assert ShowStore(store.engine).get(saved.id).show == show


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"ip": "10.0.0.300"}, "not a network address"),
        ({"prefix": 31}, "31 is not a network prefix"),
        ({"counts_from": 2}, "first universe"),
        ({"priority": 201}, "priority"),
        ({"ports": [{"number": 1}, {"number": 1}]}, "two ports of one number"),
        ({"kind": "toaster"}, "desk"),
        ({"colour": "red"}, "colour"),
    ],
)
def test_what_no_box_can_be_is_refused(fields: dict[str, object], words: str) -> None:
    """With what is accepted, as everything else in a file."""
    with pytest.raises(FileError) as caught:
        read_show_json(show_with({**GATE, **fields}))
    assert words in str(caught.value)
    with pytest.raises(FileError):
        read_show_json(show_with(GATE, GATE))
