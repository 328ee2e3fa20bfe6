"""The command line without its start: a process that has loaded all of it forks for each run.

What runs is `main` of the command line in a process of its own, with its own arguments,
environment, standard input and output, and exit code. Only the loading of SciPy and the like,
several seconds, is done once. `test_command_line` runs commands cold beside it.
"""

from __future__ import annotations

import atexit
import json
import os
import subprocess
import sys
import tempfile
from importlib import import_module
from pathlib import Path


def serve() -> None:
    """Forks for each line of standard input, and answers with the exit code."""
    from bridge_chart.cli.main import COMMANDS, main

    for where, _ in COMMANDS.values():
        import_module(f"bridge_chart.cli.{where.split(':')[0]}")
    for line in sys.stdin:
        asked = json.loads(line)
        child = os.fork()
        if child == 0:
            _run(asked, main)
        _, status = os.waitpid(child, 0)
        sys.stdout.write(f"{os.waitstatus_to_exitcode(status)}\n")
        sys.stdout.flush()


def _run(asked: dict[str, object], main: object) -> None:
    folder = Path(str(asked["folder"]))
    for number, (name, flags) in enumerate(
        (("in", os.O_RDONLY), ("out", os.O_WRONLY | os.O_CREAT), ("err", os.O_WRONLY | os.O_CREAT))
    ):
        os.dup2(os.open(folder / name, flags, 0o600), number)
    os.environ.clear()
    os.environ.update(dict(asked["env"]))  # type: ignore[call-overload]
    code = 70
    try:
        main(list(asked["arguments"]))  # type: ignore[call-overload,operator]
    except SystemExit as left:
        code = left.code if isinstance(left.code, int) else int(left.code is not None)
    except BaseException:
        sys.excepthook(*sys.exc_info())
        code = 1
    finally:
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(code)


class _Warm:
    """The process that forks; each process of tests has its own."""

    def __init__(self) -> None:
        self._process: subprocess.Popen[str] | None = None

    def run(self, env: dict[str, str], arguments: list[str], text: str) -> tuple[int, str, str]:
        process = self._started()
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            (folder / "in").write_text(text, encoding="utf-8")
            asked = {"folder": name, "arguments": arguments, "env": env}
            assert process.stdin
            assert process.stdout
            process.stdin.write(json.dumps(asked) + "\n")
            process.stdin.flush()
            code = int(process.stdout.readline())
            told = [(folder / part).read_text(encoding="utf-8") for part in ("out", "err")]
        return code, told[0], told[1]

    def _started(self) -> subprocess.Popen[str]:
        if self._process is None or self._process.poll() is not None:
            self._process = subprocess.Popen(
                [sys.executable, "-m", "tests.cli.warm"],
                stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
            )  # fmt: skip
            atexit.register(self._process.kill)
        return self._process


_WARM = _Warm()


def command(home: Path, *arguments: str, text: str = "") -> subprocess.CompletedProcess[str]:
    """A command of an instance, run and waited for."""
    env = {**os.environ, "BRIDGE_HOME": str(home)}
    code, out, err = _WARM.run(env, list(arguments), text)
    return subprocess.CompletedProcess(list(arguments), code, out, err)


if __name__ == "__main__":
    serve()
