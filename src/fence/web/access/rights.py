"""What each role may do: one table of every place of Fence, the least role that may look there and
that may send there.

A place that is not in it answers nobody.
"""

from __future__ import annotations

from fence.store.people import Role

ANYBODY = frozenset(
    {
        "static",
        "assets.stylesheet",
        "assets.ahead",
        "shows.healthz",
        "access.log_in",
        "access.join",
        "later.worker",
        "preferences.switch_theme",
    }
)
"""Places that answer also those who are not logged in."""

_LOOKING = {
    Role.READER: """
        shows.index shows.open_show shows.settings shows.export
        charts.index charts.modes charts.one chart_files.export_library chart_files.export
        words.index
        words.export
        chart_update.index chart_update.revision choose.index probe.index probe.sheet
        rig.index find.index fixture.index
        address.index address.overview proposals.mend proposals.drop proposals.try_drop
        proposals.repair proposals.others
        blocks.preview layout.index trial.index room.index sheet.index sheet.file ways.index
        lines.index pull.index pull.as_csv plans.as_csv ground.index stock.index stock.as_csv
        day.index links.index
        pins.index
        network.index hosts.index boxcard.index boxcard.card numbers.index numbers.of_show
        set.index set.open_label card.index says.index place.index order.index rounds.index
        labels.index labels.pdf
        labels.sheets codes.index
        findings.panel lists.index lists.pdf switches.index switches.of_show
        practise.index practise.go_on drills.index worksheet.index find_it.index
        cases.of cases.as_file challenges.heap challenges.cable
        log.index log.between handing.document
        practice.index prove.index prove.seen prove.compare troubleshoot.index
        faders.index faders.table tester.index colour.index
        lesson.index out.status hanging.index hanging.pdf
        access.mine here.index later.token rdm.index rdm.progress device.index speak.index
        speak.grown hold.index hold.status
    """,
    Role.PLANNER: """
        imports.preview imports.heads entering.paste entering.edit change.index chart_files.preview
        cases.new cases.sheet
        add.index add.preview universes.edit plans.index plans.read ports.index look.index
        look.found
    """,
    Role.OWNER: "people.index people.backup",
}

_SENDING = {
    Role.READER: """
        access.log_out access.mine access.end out.take practise.forget drills.answer
        find_it.take cases.start challenges.hand_in challenges.lay
    """,
    Role.CREW: """
        troubleshoot.note troubleshoot.found troubleshoot.take_rdm troubleshoot.take_nodes
        troubleshoot.take_back troubleshoot.anew troubleshoot.bring
        card.mark card.tick card.turned card.serial says.take place.tick place.take rounds.take
        boxcard.mark
        log.note log.name_snapshot steps.undo steps.redo
        rdm.ask rdm.stop rdm.blink rdm.put device.put device.reset device.who_is rdm.keep
        prove.bring prove.chase prove.answer prove.practise faders.take faders.put colour.take
        practice.take
    """,
    Role.PLANNER: """
        cases.take cases.upload cases.remove
        troubleshoot.weigh hanging.set_out imports.say_heads
        shows.create shows.make_demo shows.settings shows.copy shows.delete shows.put_back
        imports.upload imports.mend_rows imports.confirm
        charts.retire charts.bring_back charts.copy words.index chart_update.index choose.need
        change.index
        entering.read entering.paste entering.edit chart_files.upload chart_files.confirm
        probe.begin probe.answer
        add.index bulk.index fixture.index
        address.nudge address.move address.next_gap address.pin blocks.take layout.index
        proposals.take_mend
        proposals.take_repair trial.index universes.edit universes.remove ways.index
        lines.take plans.index plans.read ground.take stock.take day.take
        network.take hosts.index hosts.keep look.ask look.take look.by_hand ports.index
        device.chart speak.index speak.grown hold.begin hold.end
        colour.trim prove.choose prove.confirm order.take findings.waive findings.unwaive
        log.forget_snapshot log.go_back
    """,
    Role.OWNER: "shows.remove people.invite people.withdraw people.role people.remove people.end",
}
"""What crews send is looked at once more when it is saved: marks, and nothing of the plan."""


def _turned(table: dict[Role, str]) -> dict[str, Role]:
    return {endpoint: role for role, endpoints in table.items() for endpoint in endpoints.split()}


LOOKING, SENDING = _turned(_LOOKING), _turned(_SENDING)


def needed(endpoint: str, method: str) -> Role | None:
    """The least role that a place asks for; None for a place that nobody may use."""
    return (LOOKING if method in ("GET", "HEAD", "OPTIONS") else SENDING).get(endpoint)
