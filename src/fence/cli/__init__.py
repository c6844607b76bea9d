"""The ``fence`` command. Exit codes: 0 well, 1 stops were found, 2 the input cannot be used or the
step not be done.

Each command is loaded only when it is called, so that a small one does not wait for the web
server's packages.
"""

from __future__ import annotations

import os
import sys
from contextlib import suppress
from importlib import import_module
from typing import Any, NoReturn

import click

from fence import __version__
from fence.core.model.errors import FenceError
from fence.core.model.text import printable

COMMANDS = {
    "serve": "fence.cli.serving",
    "demo": "fence.cli.serving",
    "owner": "fence.cli.serving",
    "check": "fence.cli.checking",
    "mend": "fence.cli.laying",
    "layout": "fence.cli.laying",
    "switches": "fence.cli.switches",
    "readback": "fence.cli.setting",
    "troubleshoot": "fence.cli.troubleshooting",
    "export": "fence.cli.shows",
    "import": "fence.cli.shows",
    "chart": "fence.cli.charts",
    "nodes": "fence.cli.network",
    "rdm": "fence.cli.rdm",
    "send": "fence.cli.network",
    "listen": "fence.cli.network",
    "output": "fence.cli.output",
    "standin": "fence.cli.network",
    "backup": "fence.cli.shows",
    "restore": "fence.cli.shows",
}
"""Every command, and the module that holds it as ``NAME_command``."""
FORMERLY = {"boxes": "nodes"}
"""Names that commands had: they go on working, and are not listed."""

AT_ONCE = frozenset({"check"})
"""Commands that leave nothing behind but what they printed: the process ends with that. To take all
fixtures of a large rig apart first is a fifteenth of the time of a check."""

UNUSABLE = 2
INTERRUPTED = 130


class Fence(click.Group):
    """The group of all commands. Whatever goes wrong is one line on standard error, and never exit
    code 1."""

    def list_commands(self, _context: click.Context) -> list[str]:
        """The names of the commands, in the order of the table."""
        return list(COMMANDS)

    def get_command(self, _context: click.Context, name: str) -> click.Command | None:
        """The command of that name, loaded now; None where there is none."""
        name = FORMERLY.get(name, name)
        if name not in COMMANDS:
            return None
        found: click.Command = getattr(import_module(COMMANDS[name]), f"{name}_command")
        return found

    def invoke(self, context: click.Context) -> Any:
        """Run the command; an output that went away is a failure like any other."""
        try:
            return super().invoke(context)
        except BrokenPipeError:
            _let_go_of_output()
            raise FenceError("The result cannot be written: who read it has gone.") from None

    def main(self, *args: Any, **options: Any) -> NoReturn:
        """Run a command, see that what it printed has arrived, and end with the documented exit
        code."""
        options["standalone_mode"] = False
        is_process = not args and "args" not in options
        problem, code = "", 0
        if closed := sys.stdout is None:
            sys.stdout = open(os.devnull, "w")  # noqa: SIM115 - it stays for as long as the process
        try:
            code = int(super().main(*args, **options) or 0)
        except SystemExit as end:
            code = int(end.code or 0)
        except click.ClickException as error:
            error.show()
            code = UNUSABLE
        except (click.Abort, KeyboardInterrupt):
            code = INTERRUPTED
        except FenceError as error:
            problem = str(error)
        except OSError as error:
            problem = f"The result cannot be written ({error.strerror or error})."
        except Exception as error:
            if os.environ.get("FENCE_TRACE"):
                raise
            problem = (
                f"Something went wrong in Fence ({type(error).__name__}: {error}). "
                "FENCE_TRACE=1 shows where."
            )
        if closed and code != UNUSABLE and not problem:
            problem = "The result cannot be written (standard output is closed)."
        if problem:
            _tell(problem)
            code = UNUSABLE
        code = _arrived(code)
        if is_process and sys.argv[1:] and sys.argv[1] in AT_ONCE:
            os._exit(code)
        sys.exit(code)


def _tell(problem: str) -> None:
    """One line on standard error, where there is one."""
    with suppress(OSError):
        click.echo(" ".join(printable(problem).split()), err=True)


def _arrived(code: int) -> int:
    """The exit code once standard output has taken everything; ``UNUSABLE`` where it has not
    (closed, or full)."""
    try:
        sys.stdout.flush()
    except (OSError, ValueError) as error:
        _tell(f"The result cannot be written ({getattr(error, 'strerror', None) or error}).")
        _let_go_of_output()
        return UNUSABLE
    return code


def _let_go_of_output() -> None:
    """Point standard output at nothing, so that the interpreter does not try it again when it
    ends."""
    with suppress(OSError, ValueError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


@click.group(cls=Fence)
@click.version_option(__version__, prog_name="fence")
def main() -> None:
    """Plan DMX addresses, find the clashes, take the mend."""


if __name__ == "__main__":
    main()
