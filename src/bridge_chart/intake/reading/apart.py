"""The one door to what is in a file: it is opened in a process of its own, with limits.

Files come from anywhere. Whatever one does to its reader (asks for all memory, takes for ever,
brings it down), it does to that process and to no other; it is an error about that file, and the
reader is started again. Nothing else of the program unpacks or parses a file.
"""

from __future__ import annotations

import atexit
import contextlib
import os
import pickle
import resource
import select
import signal
import struct
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import asdict
from typing import Any, BinaryIO

from bridge_chart.intake.reading.sheet import KEPT, Sheet
from bridge_chart.intake.reading.whose import Whose
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.terms.errors import BridgeError, UnreadableFile

MOST_MEGABYTES = 4096
"""Memory that opening a file may take beyond what its reader has at the start."""
SECONDS, SECONDS_A_MEGABYTE = 45.0, 1.5
"""How long opening a file may take, and more for each megabyte of it."""
MOST_READERS = 2
"""Readers of a process; whoever comes third waits."""
IDLE_SECONDS = 600
STARTING_SECONDS = 60.0
SIZE = struct.Struct("!Q")
TOO_MUCH = (-signal.SIGABRT, -signal.SIGKILL, -signal.SIGSEGV, -signal.SIGBUS)


def sheet_in(name: str, data: bytes, said: IntakeSettings | None = None) -> Sheet:
    """The table in a file (`read.read_sheet`); UnreadableFile says what is wrong with it."""
    found = _apart("sheet", name, data, None if said is None else said.model_dump(mode="json"))
    assert isinstance(found, Sheet)
    return found


def tables_of(name: str, data: bytes, kind: str) -> list[tuple[str, bytes, list[str]]]:
    """The tables of a file or archive (`archive.tables_in`)."""
    return list(_apart("tables", name, data, kind))


def file_without(
    name: str, data: bytes, said: IntakeSettings, whose: Whose, elsewhere: Whose
) -> tuple[bytes, list[int]]:
    """A file without the lines of some students, and which those were (`without.without`)."""
    told = said.model_dump(mode="json")
    found = _apart("without", name, data, (told, asdict(whose), asdict(elsewhere)))
    return found[0], found[1]


def size_inside(name: str, data: bytes) -> int:
    """Bytes of what is in a file, unpacked, as far as it says so itself."""
    if data[:2] != b"PK" and data[:4] != b"PAR1":
        return len(data)
    return int(_apart("size", name, data, None))


def _apart(what: str, name: str, data: bytes, more: Any) -> Any:
    allowed = SECONDS + SECONDS_A_MEGABYTE * len(data) / (1 << 20)
    with _READERS.one() as reader:
        answer = reader.ask((what, name, data, more), allowed)
    if isinstance(answer, BaseException):
        raise answer
    return answer


class _Gone(Exception):
    """The reader died, or was ended for taking too long."""


class _Reader:
    """A reading process as its owner sees it."""

    def __init__(self) -> None:
        self.used = time.monotonic()
        self.process = subprocess.Popen(
            [sys.executable, "-m", "bridge_chart.intake.reading.apart"],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL,
            env={**os.environ, "POLARS_MAX_THREADS": "2", "OPENBLAS_NUM_THREADS": "1",
                 "PYTHONPATH": os.pathsep.join(path for path in sys.path if path)},
        )  # fmt: skip
        try:
            _received(self._stdout(), time.monotonic() + STARTING_SECONDS)
        except (TimeoutError, EOFError, OSError) as error:
            self.end()
            raise BridgeError(
                "The reader of files could not be started.", kept=KEPT,
                next_step="Try again; if it stays, the machine lacks memory or processes.",
            ) from error  # fmt: skip

    def ask(self, question: tuple[str, str, bytes, Any], seconds: float) -> Any:
        """What the reader found, or the error to raise; a reader that was gone before it got the
        file is started anew, one that fell over the file is not asked again."""
        name = question[1]
        self.used = time.monotonic()
        try:
            try:
                _send(self._stdin(), question)
            except OSError:
                self.end()
                self.__init__()  # type: ignore[misc]
                _send(self._stdin(), question)
            return _received(self._stdout(), time.monotonic() + seconds)
        except TimeoutError:
            self.end()
            return UnreadableFile(
                f"{name} took longer than {seconds:.0f} seconds to open, so this was given up.",
                kept=KEPT, next_step="Save the table alone as CSV, and bring in that file.",
            )  # fmt: skip
        except (EOFError, OSError, pickle.UnpicklingError):
            self.end()
            return UnreadableFile(
                f"{name} brought its reader down, which happens to files that are damaged or ask "
                f"for more than {MOST_MEGABYTES >> 10} GB of memory.",
                kept=KEPT, next_step="Save the table alone as CSV, and bring in that file.",
            )  # fmt: skip

    def _stdin(self) -> BinaryIO:
        assert self.process.stdin is not None
        return self.process.stdin  # type: ignore[return-value]

    def _stdout(self) -> BinaryIO:
        assert self.process.stdout is not None
        return self.process.stdout  # type: ignore[return-value]

    @property
    def alive(self) -> bool:
        return self.process.poll() is None

    def end(self) -> None:
        self.process.kill()
        self.process.wait()
        for pipe in (self.process.stdin, self.process.stdout):
            if pipe is not None:
                with contextlib.suppress(OSError):
                    pipe.close()


class _Readers:
    """The readers of this process, each lent to one thread at a time."""

    def __init__(self) -> None:
        self._free: list[_Reader] = []
        self._lock = threading.Lock()
        self._slots = threading.BoundedSemaphore(MOST_READERS)
        self._owner = os.getpid()

    @contextlib.contextmanager
    def one(self) -> Any:
        with self._slots:
            reader = self._taken()
            try:
                yield reader
            finally:
                self._given_back(reader)

    def _taken(self) -> _Reader:
        with self._lock:
            if self._owner != os.getpid():  # a process that was forked has readers of its own
                self._free, self._owner = [], os.getpid()
            while self._free:
                reader = self._free.pop()
                if reader.alive:
                    return reader
                reader.end()
        return _Reader()

    def _given_back(self, reader: _Reader) -> None:
        with self._lock:
            if reader.alive:
                self._free.append(reader)
            else:
                reader.end()

    def end(self) -> None:
        """End the readers that nobody uses (the process ends)."""
        with self._lock:
            if self._owner == os.getpid():
                for reader in self._free:
                    reader.end()
                self._free = []


_READERS = _Readers()
atexit.register(_READERS.end)


def warm() -> None:
    """Start a reader, so that the first file need not wait for it."""
    sheet_in("warm.csv", b"a\n1\n")


def _send(pipe: BinaryIO, value: Any) -> None:
    data = pickle.dumps(value, protocol=5)
    pipe.write(SIZE.pack(len(data)))
    pipe.write(data)
    pipe.flush()


def _received(pipe: BinaryIO, until: float) -> Any:
    size = SIZE.unpack(_exactly(pipe, SIZE.size, until))[0]
    return pickle.loads(_exactly(pipe, size, until))


def _exactly(pipe: BinaryIO, size: int, until: float) -> bytes:
    """So many bytes of a pipe; TimeoutError where they are not there in time."""
    held, number = bytearray(), pipe.fileno()
    while len(held) < size:
        ready, _, _ = select.select([number], [], [], max(0.0, until - time.monotonic()))
        if not ready:
            raise TimeoutError
        piece = os.read(number, min(size - len(held), 1 << 20))
        if not piece:
            raise EOFError
        held += piece
    return bytes(held)


# ── Within the reader ────────────────────────────────────────────────────────
def _functions() -> dict[str, Callable[[str, bytes, Any], Any]]:
    from bridge_chart.intake.reading import archive, read
    from bridge_chart.intake.reading import without as taking_out

    def sheet(name: str, data: bytes, said: Any) -> Sheet:
        told = None if said is None else IntakeSettings.model_validate(said)
        return read.read_sheet(name, data, told)

    def without(name: str, data: bytes, more: Any) -> tuple[bytes, list[int]]:
        said, whose, elsewhere = more
        told = IntakeSettings.model_validate(said)
        return taking_out.without(name, data, told, Whose(**whose), Whose(**elsewhere))

    return {
        "sheet": sheet, "tables": archive.tables_in, "size": archive.unpacked_size,
        "without": without,
    }  # fmt: skip


def _limit() -> None:
    """No more memory than a file may take, no files written, no traces of a fall; and whoever
    looks for a process to end when memory runs out takes this one."""
    with open("/proc/self/statm", encoding="ascii") as about:
        now = int(about.read().split()[0]) * resource.getpagesize()
    most = now + (MOST_MEGABYTES << 20)
    resource.setrlimit(resource.RLIMIT_AS, (most, most))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))
    with contextlib.suppress(OSError), open("/proc/self/oom_score_adj", "w") as score:
        score.write("900")


def _answered(functions: dict[str, Callable[[str, bytes, Any], Any]], question: Any) -> Any:
    what, name, data, more = question
    try:
        return functions[what](name, data, more)
    except BridgeError as error:
        return error
    except MemoryError:
        return UnreadableFile(
            f"{name} asks for more than {MOST_MEGABYTES >> 10} GB of memory to be opened.",
            kept=KEPT, next_step="Save the table alone as CSV, and bring in that file.",
        )  # fmt: skip
    except Exception as error:
        return UnreadableFile(
            f"{name} is damaged and cannot be read ({type(error).__name__}).", kept=KEPT,
            next_step="Export it again, and bring in that file.",
        )  # fmt: skip


def main() -> None:
    """Read what comes, until nothing comes any more."""
    functions = _functions()
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    source, sink = sys.stdin.buffer, os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)  # whatever prints does not print into the answer
    _limit()
    _send(sink, "ready")
    while True:
        try:
            question = _received(source, time.monotonic() + IDLE_SECONDS)
        except (TimeoutError, EOFError):
            return
        _send(sink, _answered(functions, question))


if __name__ == "__main__":
    main()
