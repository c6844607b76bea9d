"""Whatever is sent, and whoever sends at once: an answer in words, and nothing lost."""

from __future__ import annotations

import threading
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given
from hypothesis import strategies as st

from fence.core.checks import RULES, check
from fence.demo import demo_show
from fence.store.shows import ShowStore
from fence.web import create_app
from tests.conftest import Visitor
from tests.examples import examples

words = st.one_of(
    st.text(max_size=12),
    st.integers(-5, 700).map(str),
    st.sampled_from(
        [
            "",
            "1/1",
            "2/600",
            "9" * 40,
            "\0",
            "1.5",
            "tansy-pond-wash | 5 channel",
            "5 channel",
            "on",
        ]
    ),
)
FORMS: dict[str, tuple[str, ...]] = {
    "/shows/1/address/nudge": ("fixture", "part", "by", "u"),
    "/shows/1/address/move": ("fixture", "part", "address", "u"),
    "/shows/1/address/gap": ("fixture", "part"),
    "/shows/1/address/mend": ("finding", "mend", "pick"),
    "/shows/1/address/pin": ("fixture",),
    "/shows/1/address/block/swap": ("pick", "also"),
    "/shows/1/address/block/split": ("pick", "also"),
    "/shows/1/address/block/set": ("pick", "also"),
    "/shows/1/address/block/compact": ("u",),
    "/shows/1/address/layout": (
        "school",
        "page",
        "round",
        "order",
        "spill",
        "keep",
        "keep_unit",
        "start",
        "ids",
        "whom",
    ),
    "/shows/1/address/trial": (
        "tried",
        "kind",
        "quantity",
        "label",
        "position",
        "change",
        "universes",
    ),
    "/shows/1/address/ways": ("tell_tale", "on", "slot", "scale", "hard"),
    "/shows/1/address/universes": ("number", "name", "reserved"),
    "/shows/1/rig/add": ("kind", "quantity", "label", "number", "position", "universe", "start"),
    "/shows/1/rig/bulk": ("picked", "action", "label", "number", "position", "mode", "group"),
    "/shows/1/rig/28": ("label", "number", "mode", "position", "address", "note"),
    "/shows/1/settings": (
        "name",
        "desk_name",
        "desk_universes",
        "desk_page",
        "desk_buttons",
        "desk_layout",
    ),
    "/shows/1/charts/paste": (
        "maker",
        "model",
        "text",
        "setter",
        "switches",
        "highest",
        "weight_kg",
    ),
    "/shows/1/charts/read": ("maker", "model", "text", "wording", "means", "chart"),
    "/shows/1/charts/probe": ("practice",),
    "/shows/1/charts/files/words": ("wording", "means", "forget"),
    "/shows/1/modes/needs": ("whom", "fixture", "features", "school", "clear"),
    "/shows/1/modes/change": ("ids", "mode", "recommended", "goal", "within", "mend"),
    "/shows/1/undo": (),
    "/shows": ("name", "desk_universes"),
    "/who": ("who",),
}


@pytest.fixture(scope="module")
def rough(tmp_path_factory: pytest.TempPathFactory) -> Visitor:
    """A visitor of a show that is used roughly."""
    app = create_app(tmp_path_factory.mktemp("rough") / "rough.db", {"TESTING": True})
    app.extensions["fence_pages"].store.create(demo_show(), who="A")
    return Visitor(app.test_client())


@examples(60, suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow])
@given(st.data())
def test_no_form_ever_fails_without_words(rough: Visitor, data: st.DataObject) -> None:
    """Any values in any form give a page, a redirect or a refusal, and the show can still be
    read."""
    path = data.draw(st.sampled_from(sorted(FORMS)))
    store: ShowStore = rough.client.application.extensions["fence_pages"].store
    before = store.get(1)
    form: dict[str, object] = {
        name: data.draw(words) for name in FORMS[path] if data.draw(st.integers(0, 9))
    }
    response = rough.post(
        path, {"revision": before.revision, **form}, htmx=data.draw(st.booleans())
    )
    assert response.status_code in (200, 302, 404, 409, 422)
    after = ShowStore(store.engine).get(1)
    assert after.revision - before.revision in (0, 1)
    assert all(finding.message and finding.rule in RULES for finding in check(after.show))
    assert rough.get("/shows/1/address").status_code == 200


QUERIES = [
    "/shows/1/address",
    "/shows/1/address/try",
    "/shows/1/address/drop",
    "/shows/1/address/mend",
    "/shows/1/address/overview",
    "/shows/1/rig",
    "/shows/1/rig/find",
    "/shows/1/rig/add/preview",
    "/shows/1/findings",
    "/shows/1/modes",
    "/shows/1/modes/change",
    "/shows/1/address/repair",
    "/shows/1/address/block/share",
    "/shows/1/address/block/compact",
    "/shows/1/address/layout",
    "/shows/1/address/trial",
    "/shows/1/address/room",
]
NAMES = [
    "u",
    "pick",
    "part",
    "slot",
    "finding",
    "mend",
    "q",
    "sort",
    "dir",
    "most",
    "find",
    "severity",
    "kind",
    "label",
    "goal",
    "within",
    "also",
    "willing",
    "stay",
    "length",
    "school",
    "start",
    "keep",
    "tried",
    "quantity",
    "universes",
    "ids",
    "mode",
]


@examples(40, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.sampled_from(QUERIES), st.dictionaries(st.sampled_from(NAMES), words, max_size=6))
def test_no_address_of_a_page_ever_fails(rough: Visitor, path: str, query: dict[str, str]) -> None:
    """Any words behind a page's address give a page or a refusal."""
    assert rough.get(path, query_string=query).status_code in (200, 404, 422)


def test_many_at_once_lose_nothing(tmp_path: Path) -> None:
    """Eight people nudge at once: each answered step is in the log once, the others are told, none
    is half done."""
    app = create_app(tmp_path / "many.db", {"WTF_CSRF_ENABLED": False})
    store: ShowStore = app.extensions["fence_pages"].store
    saved = store.create(demo_show(), who="A")
    codes: list[int] = []

    def person(fixture: int) -> None:
        client = app.test_client()
        for _ in range(6):
            revision = store.get(saved.id).revision
            form = {"revision": revision, "fixture": fixture, "by": 1}
            codes.append(
                client.post(
                    "/shows/1/address/nudge", data=form, headers={"HX-Request": "true"}
                ).status_code
            )

    people = [threading.Thread(target=person, args=(fixture,)) for fixture in range(1, 9)]
    for one in people:
        one.start()
    for one in people:
        one.join()
    now = ShowStore(store.engine).get(saved.id)
    moved = sum(
        (now.show.fixture(i).start or 0) - (saved.show.fixture(i).start or 0) for i in range(1, 9)
    )
    assert set(codes) <= {200, 409}
    assert codes.count(200) == moved == now.revision - 1
    assert [entry.revision for entry in store.history(saved.id)] == list(range(now.revision, 0, -1))
    store.engine.dispose()
