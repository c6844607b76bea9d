"""Commands of Fence as processes of their own, without waiting for Python to load it each time.

A process that has loaded everything waits beside the tests. For each command it forks, and the
child runs the command with the arguments, the folder, the environment and the files that it was
asked for: a process like any other, with its own memory, signals and end. What has to be done in
the child before Python begins (limits of the system) needs a real start; ``start`` takes that way
then.
"""

from __future__ import annotations

import array
import gc
import json
import os
import select
import signal
import socket
import subprocess
import sys
from atexit import register
from collections.abc import Sequence
from contextlib import suppress
from functools import cache
from threading import Lock
from typing import Any

COMMAND = [sys.executable, "-m", "fence.cli"]
LARGEST = 1 << 20
ONE = Lock()


class Warm(subprocess.Popen[str]):
    """A process that is forked off the one that waits; in all else as any other."""

    _line: socket.socket

    def _execute_child(self, args: Any, *rest: Any) -> None:
        """Fork instead of beginning anew; see ``subprocess.Popen``, whose place this takes."""
        _executable, _preexec, _close, _pass, folder, environment, *_ = rest
        # what it reads, what it writes, what it complains
        pipes = list(zip(rest[9:15:2], rest[10:15:2], strict=True))
        given = [pipes[0][0], pipes[1][1], pipes[2][1]]
        self._line = socket.socket(socket.AF_UNIX)
        self._line.connect(_waiting())
        asked = json.dumps(
            [args[3:], str(folder or os.getcwd()), dict(environment or os.environ)]
        ).encode()
        files = [file if file != -1 else place for place, file in enumerate(given)]
        self._line.sendmsg(
            [len(asked).to_bytes(4), asked],
            [(socket.SOL_SOCKET, socket.SCM_RIGHTS, array.array("i", files))],
        )
        self.pid = int.from_bytes(self._line.recv(4, socket.MSG_WAITALL))
        self._child_created = True
        nowhere = getattr(self, "_devnull", None)
        ours = {
            file
            for file, pair in zip(given, pipes, strict=True)
            if -1 not in pair and file != nowhere
        }
        for file in ours | ({nowhere} if nowhere is not None else set()):
            os.close(file)

    def _try_wait(self, flags: int) -> tuple[int, int]:
        """How it ended, as the one that waits was told; (0, 0) while it goes on and is not waited
        for."""
        if flags & os.WNOHANG and not select.select([self._line], [], [], 0)[0]:
            return 0, 0
        told = self._line.recv(4, socket.MSG_WAITALL)
        self._line.close()
        return self.pid, int.from_bytes(told) if len(told) == 4 else 1

    def _internal_poll(self, *_: Any, **__: Any) -> int | None:
        """How it ended; None while it goes on."""
        if self.returncode is None:
            pid, how = self._try_wait(os.WNOHANG)
            if pid == self.pid:
                self._handle_exitstatus(how)  # type: ignore[attr-defined]
        return self.returncode


def start(command: Sequence[object], **options: Any) -> subprocess.Popen[str]:
    """Start a command of Fence: at once where nothing has to be done before Python begins."""
    words = [str(word) for word in command]
    other = (options.get("env") or os.environ).get("PYTHONPATH") != os.environ.get("PYTHONPATH")
    real = other or options.get("preexec_fn") is not None
    plain = words[:3] == COMMAND and not real
    return (Warm if plain else subprocess.Popen)(words, **options)


def run(command: Sequence[object], **options: Any) -> subprocess.CompletedProcess[str]:
    """Run a command of Fence to its end, as ``subprocess.run`` does."""
    timeout, check = options.pop("timeout", None), options.pop("check", False)
    if options.pop("capture_output", False):
        options.update(stdout=subprocess.PIPE, stderr=subprocess.PIPE)
    told = options.pop("input", None)
    if told is not None:
        options["stdin"] = subprocess.PIPE
    with start(command, **options) as process:
        try:
            out, errors = process.communicate(told, timeout=timeout)
        except BaseException:
            process.kill()
            raise
    done = subprocess.CompletedProcess(process.args, process.returncode, out, errors)
    if check:
        done.check_returncode()
    return done


def _waiting() -> str:
    """The place of the process that waits, started with the first command, whichever thread asks
    for that."""
    with ONE:
        return _started()


@cache
def _started() -> str:
    """Start the process that waits; it ends with this one."""
    place = f"fence-warm-{os.getpid()}"
    process = subprocess.Popen(
        [sys.executable, "-m", "tests.warm", place], stdout=subprocess.PIPE, text=True
    )
    assert process.stdout is not None
    assert process.stdout.readline() == "ready\n"
    register(_end, process)
    return f"\0{place}"


def _end(process: subprocess.Popen[str]) -> None:
    """End the process that waits; what it has forked goes on."""
    process.kill()
    process.wait()
    if process.stdout is not None:
        process.stdout.close()


def _wait(place: str) -> None:
    """Wait for commands, and fork for each."""
    import fence.cli.serving
    import fence.standins.boxes
    import fence.standins.rig
    import fence.web  # noqa: F401
    from fence.cli import main

    parent = os.getppid()
    children: dict[int, socket.socket] = {}
    ended, wake = os.pipe()
    os.set_blocking(wake, False)
    signal.set_wakeup_fd(wake, warn_on_full_buffer=False)
    signal.signal(signal.SIGCHLD, lambda *_: None)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    gc.freeze()
    with socket.socket(socket.AF_UNIX) as asked:
        asked.bind(f"\0{place}")
        asked.listen(64)
        print("ready", flush=True)
        while os.getppid() == parent:
            ready, _, _ = select.select([asked, ended], [], [], 1.0)
            if ended in ready:
                os.read(ended, 4096)
            _bury(children)
            if asked in ready:
                line, _ = asked.accept()
                with suppress(OSError, ValueError, IndexError):
                    pid = _forked(line, [asked, *children.values()], [ended, wake], main)
                    children[pid] = line


def _bury(children: dict[int, socket.socket]) -> None:
    """Tell of those that have ended how they did."""
    while children:
        pid, how = os.waitpid(-1, os.WNOHANG)
        if not pid:
            return
        line = children.pop(pid)
        with suppress(OSError):
            line.sendall(how.to_bytes(4))
        line.close()


def _forked(
    line: socket.socket, sockets: Sequence[socket.socket], pipes: Sequence[int], main: Any
) -> int:
    """Read what is asked for and fork; in the child, do it and end."""
    size, rights, *_ = line.recvmsg(4, socket.CMSG_SPACE(12))
    files = array.array("i")
    files.frombytes(rights[0][2])
    asked = b""
    while len(asked) < int.from_bytes(size):
        asked += line.recv(LARGEST)
    words, folder, environment = json.loads(asked)
    pid = os.fork()
    if pid:
        line.sendall(pid.to_bytes(4))
        for file in files:
            os.close(file)
        return pid
    code = 1
    try:
        _settle(files, folder, environment)
        for one in (line, *sockets):
            one.close()
        for pipe in pipes:
            os.close(pipe)
        main(words, prog_name="fence")
        code = 0
    except SystemExit as end:
        code = end.code if isinstance(end.code, int) else int(end.code is not None)
    finally:
        with suppress(Exception):
            sys.stdout.flush()
        os._exit(code)


def _settle(files: Sequence[int], folder: str, environment: dict[str, str]) -> None:
    """In the child: be a process as it begins, with these files, in this folder."""
    signal.set_wakeup_fd(-1)
    signal.signal(signal.SIGCHLD, signal.SIG_DFL)
    signal.signal(signal.SIGINT, signal.default_int_handler)
    os.chdir(folder)
    os.environ.clear()
    os.environ.update(environment)
    for place, file in enumerate(files):
        os.dup2(file, place)
    for file in files:
        if file > 2:
            os.close(file)
    through = bool(environment.get("PYTHONUNBUFFERED"))
    for place, name in ((1, "stdout"), (2, "stderr")):
        stream = open(place, "w", encoding="utf-8", errors="backslashreplace", closefd=False)  # noqa: SIM115
        setattr(sys, name, stream)
        stream.reconfigure(line_buffering=through or place == 2, write_through=through)
    sys.stdin = open(0, encoding="utf-8", closefd=False)  # noqa: SIM115


if __name__ == "__main__":
    _wait(sys.argv[1])
