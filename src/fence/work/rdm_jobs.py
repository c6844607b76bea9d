"""What takes longer than a page: asking, setting, holding. Each show has one piece of work at a
time, in a thread.

Nothing of it is lost by an end in the middle: what was set and heard until then is recorded like
all the rest.
"""

from __future__ import annotations

import logging
from collections import OrderedDict
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime
from functools import partial
from threading import Event, Lock, Thread

from fence.core.model.errors import EditError, FenceError
from fence.core.model.text import counted
from fence.core.rdm.controller import RdmError
from fence.core.rdm.device_info import DeviceInfo, heard_again
from fence.core.rdm.holding import Rule, changes, put_back
from fence.core.rdm.packet import Identity
from fence.core.rdm.setting import Result, Wish, carry_out
from fence.store.answers import Answers, AnswersKept
from fence.store.shows import ShowStore
from fence.wire.rdm_ports import Place, hear_all, talking
from fence.work.rdm_recording import ORIGIN, record

MOST_SHOWS = 16
"""Shows whose last work is remembered."""
RECORDED_EVERY = 20
"""Devices after which what was set is recorded, so that little is lost where the machine stops."""
ROUND_SECONDS = 0.8
SELDOM = 10
"""In how many rounds one that does not answer is asked once: waiting for it must not hold up the
others."""
CHUNK = 8
"""Devices that are held in one go, before others may talk."""
LONGEST_SECONDS = 15 * 60.0
"""How long asking, or setting, may take in all."""
CHUNK_SECONDS = 60.0
SHORT_SECONDS = 20.0
"""How long what is done at one device may take, with the wait for others who talk."""
log = logging.getLogger(__name__)


@dataclass
class Work:
    """A piece of work: what it is, how far, what came of it. ``over`` when it has ended, ``failed``
    lists who was not set and why. ``to`` is the page that it leads the browser on to that began it,
    at ``seat``."""

    title: str
    done: int = 0
    of: int = 0
    words: str = ""
    over: bool = False
    told: str = ""
    failed: tuple[tuple[str, str], ...] = ()
    met: tuple[str, ...] = ()
    stop: Event = field(default_factory=Event)
    to: str = ""
    seat: str = ""
    about: str = ""
    """The one device that it is about, by its identity, so that its row can say how it stands."""


@dataclass
class Hold:
    """A hold of a show: the devices as they stood when it began, by identity, with what they are
    called; what is done about a change; until when (UTC). ``news`` is what was noticed, the newest
    first; ``why`` is why it ended.
    """

    show_id: int
    bind: str
    held: dict[str, DeviceInfo]
    names: dict[str, tuple[int, str]]
    rule: Rule
    until: datetime
    who: str
    began: datetime
    rounds: int = 0
    news: list[str] = field(default_factory=list)
    told: set[tuple[str, str]] = field(default_factory=set)
    silent: set[str] = field(default_factory=set)
    ended: Event = field(default_factory=Event)
    ending: Lock = field(default_factory=Lock)
    why: str = ""
    still: Callable[[], str] = lambda: ""
    """Why it may not go on, asked before every round; nothing while it may."""


class Works:
    """The work of all shows."""

    def __init__(self, store: ShowStore, answers: AnswersKept) -> None:
        self.store, self.answers = store, answers
        self._lock = Lock()
        self._works: OrderedDict[str, Work] = OrderedDict()
        self._holds: OrderedDict[str, Hold] = OrderedDict()

    def of(self, key: str) -> Work | None:
        """The work of a show that runs, or has ended and was not looked at since."""
        with self._lock:
            return self._works.get(key)

    def hold_of(self, key: str) -> Hold | None:
        """The hold of a show that is on, or has ended last."""
        with self._lock:
            return self._holds.get(key)

    def holding(self) -> Hold | None:
        """A hold that is on, of whichever show, for the banner on every screen."""
        with self._lock:
            return next((hold for hold in self._holds.values() if not hold.ended.is_set()), None)

    def check_free(self, key: str) -> None:
        """Raise ``EditError`` while something of a show goes on: nothing is begun beside it."""
        held = self._works.get(key)
        if held is not None and not held.over:
            raise EditError(f"“{held.title}” is not done yet: wait for its end, or stop it.")

    def _begin(self, key: str, work: Work, act: Callable[[Work], None]) -> Work:
        with self._lock:
            self.check_free(key)
            self._works[key] = work
            self._works.move_to_end(key)
            ended = [name for name, one in self._works.items() if one.over and name != key]
            for name in ended[: max(0, len(self._works) - MOST_SHOWS)]:
                del self._works[name]
        Thread(target=self._run, args=(work, act), daemon=True, name=f"rdm {work.title}").start()
        return work

    def _run(self, work: Work, act: Callable[[Work], None]) -> None:
        try:
            act(work)
        except FenceError as error:
            work.told = str(error)
        except Exception:
            log.exception("The work “%s” broke off.", work.title)
            work.told = (
                "Something went wrong in Fence; what was set until then is recorded. The "
                "server’s log says more."
            )
        finally:
            work.over = True

    # ---- asking

    def do(
        self, key: str, title: str, act: Callable[[Work], None], *, seat: str = "", about: str = ""
    ) -> Work:
        """Do something else that talks with devices; ``act`` says in ``told`` what came of it."""
        return self._begin(key, Work(title, seat=seat, about=about), act)

    def ask(
        self,
        key: str,
        show_id: int,
        bind: str,
        places: Sequence[Place],
        *,
        flush: bool = True,
        first: Callable[[], None] = lambda: None,
    ) -> Work:
        """Ask who is there, and what each says; once ``first`` has come to its end."""

        def act(work: Work) -> None:
            def tell(done: int, of: int, words: str) -> None:
                work.done, work.of, work.words = done, of, words

            first()
            with talking(bind, LONGEST_SECONDS) as lines:
                said, notes = hear_all(lines, places, flush=flush, stop=work.stop.is_set, tell=tell)
            before = self.answers.of(show_id)
            asked = tuple(
                sorted({place.universe for place in places if place.universe is not None})
            )
            told = before.told if before else {}
            if before is not None and before.said and not said:
                work.told = " ".join(("Nobody answered. What was said before stays.", *notes))
                return
            self.answers.keep(show_id, Answers(tuple(said), bind, asked, tuple(notes), told))
            work.told = f"{counted(len(said), 'device answered', 'devices answered')}."

        return self._begin(key, Work("Asking who is there"), act)

    # ---- setting

    def put(
        self,
        key: str,
        show_id: int,
        answers: Answers,
        wishes: Mapping[str, Wish],
        names: Mapping[str, tuple[int, str]],
        fixed: Mapping[int | None, int],
        *,
        shares: Mapping[Identity, str],
        who: str,
    ) -> Work:
        """Set devices as wished; ``names`` are the fixtures that they are, by identity: ids and
        labels."""

        def act(work: Work) -> None:
            result, recorded = Result(), set[str]()
            labels = {name: label for name, (_, label) in names.items()}
            try:
                with talking(answers.bind, LONGEST_SECONDS) as lines:
                    for step in carry_out(
                        wishes,
                        answers.said,
                        lines.talk_with,
                        result,
                        fixed=fixed,
                        stop=work.stop.is_set,
                        names=labels,
                        shares=shares,
                    ):
                        work.done, work.of, work.words = step.done, step.of, step.words
                        if len(result.said) - len(recorded) >= RECORDED_EVERY:
                            recorded |= self._record(show_id, result.said, names, recorded, who)
            finally:
                self._record(show_id, result.said, names, recorded, who)
                self._rebase(key, result.said)
                work.failed = tuple(
                    (labels.get(name, name), why) for name, why in result.failed.items()
                )
                work.met = tuple(result.met)
            good = len(
                [name for name in wishes if name not in result.failed and name in result.said]
            )
            ended = "Stopped: " if result.stopped else ""
            rest = (
                f", {counted(len(result.failed), 'was not', 'were not')}" if result.failed else ""
            )
            work.told = (
                f"{ended}{good} of {counted(len(wishes), 'device')} set and heard back{rest}."
            )

        return self._begin(key, Work("Setting", of=len(wishes)), act)

    def _record(
        self,
        show_id: int,
        said: Mapping[str, DeviceInfo],
        names: Mapping[str, tuple[int, str]],
        recorded: set[str],
        who: str,
    ) -> set[str]:
        """Record what devices said back, as read back by RDM; gives the identities of those."""
        fresh = {name: one for name, one in said.items() if name not in recorded}
        self.answers.put(show_id, fresh)
        readings = {names[name][0]: one for name, one in fresh.items() if name in names}
        record(self.store, show_id, readings, who)
        return set(fresh)

    # ---- holding

    def hold(self, key: str, hold: Hold) -> None:
        """Hold devices as they stand, until the hold's end; one that was on ends."""
        self.let_go(key, "another hold began")
        with self._lock:
            self._holds[key] = hold
            left = len(self._holds) - MOST_SHOWS
            crowded = [self._holds.popitem(last=False)[1] for _ in range(left)]
        for other in crowded:
            self._end(other, "too many other shows are held")
        Thread(target=self._hold, args=(key, hold), daemon=True, name="rdm hold").start()

    def let_go(self, key: str, why: str) -> None:
        """End the hold of a show."""
        hold = self.hold_of(key)
        if hold is not None:
            self._end(hold, why)

    def _end(self, hold: Hold, why: str) -> None:
        """End a hold that is on. Its end is in the log as soon as it is seen on a page."""
        with hold.ending:
            if hold.ended.is_set():
                return
            with suppress(FenceError):
                self.store.tell(
                    hold.show_id, f"Hold over RDM ended: {why}", who=hold.who, origin=ORIGIN
                )
            hold.why = why
            hold.ended.set()

    def let_go_of(self, show_id: int, why: str) -> None:
        """End the hold of a show by its id."""
        with self._lock:
            keys = [key for key, hold in self._holds.items() if hold.show_id == show_id]
        for key in keys:
            self.let_go(key, why)

    def _rebase(self, key: str, said: Mapping[str, DeviceInfo]) -> None:
        """What was set on purpose is how it is held from then on."""
        hold = self.hold_of(key)
        if hold is not None:
            hold.held.update({name: one for name, one in said.items() if name in hold.held})

    def _hold(self, key: str, hold: Hold) -> None:
        while not hold.ended.is_set():
            if datetime.now(UTC) >= hold.until:
                over = "its time was over; RDM between frames can make some fixtures flicker"
                self._end(hold, over)
                break
            work = self.of(key)
            if work is None or work.over:
                try:
                    if why := hold.still():
                        self._end(hold, why)
                        break
                    self._round(hold)
                except FenceError as error:
                    self._end(hold, str(error))
                except Exception:
                    log.exception("The hold broke off.")
                    self._end(hold, "something went wrong in Fence")
            hold.rounds += 1
            hold.ended.wait(ROUND_SECONDS)

    def _round(self, hold: Hold) -> None:
        names = list(hold.held)
        for first in range(0, len(names), CHUNK):
            if hold.ended.is_set():
                return
            with talking(hold.bind, CHUNK_SECONDS) as lines:
                for name in names[first : first + CHUNK]:
                    if name in hold.silent and hold.rounds % SELDOM:
                        continue
                    held = hold.held[name]
                    talk = lines.talk_with(held)
                    talk.tries = 2
                    try:
                        now = heard_again(talk, held)
                        self._noticed(hold, name, now, partial(put_back, talk, held, now))
                        hold.silent.discard(name)
                    except RdmError as error:
                        if name not in hold.silent:
                            hold.silent.add(name)
                            self._say(hold, name, str(error).rstrip(".").lower())

    def _noticed(
        self, hold: Hold, name: str, now: DeviceInfo, restore: Callable[[], DeviceInfo]
    ) -> None:
        found = changes(hold.held[name], now)
        if not found:
            hold.told = {pair for pair in hold.told if pair[0] != name}
            return
        words = ", ".join(map(str, found))
        if hold.rule is Rule.PUT_BACK:
            back = restore()
            left = changes(hold.held[name], back)
            ended = "put back" if not left else f"does not go back ({', '.join(map(str, left))})"
            self.answers.put(hold.show_id, {name: back})
            if left and (name, words) in hold.told:
                return
            hold.told.add((name, words))
            self._say(hold, name, f"{words} was changed at it: {ended}")
        elif (name, words) not in hold.told:
            hold.told.add((name, words))
            self.answers.put(hold.show_id, {name: now})
            fixture_id = hold.names.get(name, (0, ""))[0]
            if fixture_id:
                record(self.store, hold.show_id, {fixture_id: now}, hold.who)
            self._say(hold, name, f"{words} was changed at it")

    def _say(self, hold: Hold, name: str, words: str) -> None:
        fixture_id, label = hold.names.get(name, (0, name))
        told = f"{label}: {words}"
        about = fixture_id or None
        with suppress(FenceError):
            self.store.tell(hold.show_id, told, who=hold.who, origin=ORIGIN, about=about)
        hold.news.insert(0, f"{datetime.now().astimezone():%H:%M:%S}  {told}")
        del hold.news[200:]
