"""Files that come together in one archive."""

from __future__ import annotations

import gzip
import io
import zipfile
from pathlib import PurePosixPath

from bridge_chart.intake.reading.bundle import is_bundle, table_of
from bridge_chart.intake.reading.sheet import KEPT
from bridge_chart.intake.reading.workbook import MOST_UNPACKED, parquet_size, refuse_bomb
from bridge_chart.terms.errors import UnreadableFile

WORKBOOK_PARTS = ("[Content_Types].xml", "mimetype", "xl/workbook.xml", "content.xml")
READABLE = (".csv", ".txt", ".tsv", ".xlsx", ".xlsm", ".xls", ".ods", ".parquet")
MOST_FILES = 200
GZIP = b"\x1f\x8b"


def tables_in(name: str, data: bytes, kind: str) -> list[tuple[str, bytes, list[str]]]:
    """The tables of a file or archive by name, each with what was left behind of it. A OneRoster
    bundle gives one: its roster, or its results."""
    if data[:2] == GZIP:
        return tables_in(PurePosixPath(name).name.removesuffix(".gz"), _unzipped(name, data), kind)
    if data[:4] == b"PK\x03\x04" and is_bundle(data):
        refuse_bomb(name, data)
        made = table_of(name, data, kind)
        return [(f"{PurePosixPath(name).stem} {kind}.csv", made.data, made.left_behind)]
    found, passed = files_in(name, data)
    # What was passed over is said once, with the first table.
    return [(part, held, [] if n else passed) for n, (part, held) in enumerate(found)]


def _unzipped(name: str, data: bytes) -> bytes:
    """The one file that a .gz holds."""
    with gzip.GzipFile(fileobj=io.BytesIO(data)) as packed:
        held = packed.read(MOST_UNPACKED + 1)
    if len(held) > MOST_UNPACKED:
        raise UnreadableFile(
            f"{name} unpacks to more than {MOST_UNPACKED >> 20} MB.", kept=KEPT,
            next_step="Bring it in unpacked, or in parts.",
        )  # fmt: skip
    if held[:2] == GZIP:
        raise UnreadableFile(f"{name} is packed twice.", kept=KEPT, next_step="Unpack it once.")
    return held


def unpacked_size(name: str, data: bytes, _: object) -> int:
    """Bytes of what is in an archive, a workbook or a Parquet file, by what it says of itself."""
    if data[:4] == b"PAR1":
        rows, columns = parquet_size(name, data)
        return max(len(data), 8 * rows * columns)
    if data[:2] == GZIP:
        return int.from_bytes(data[-4:], "little")
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return sum(part.file_size for part in archive.infolist())
    except (zipfile.BadZipFile, ValueError, NotImplementedError):
        return len(data)  # a damaged archive is refused when it is read


def files_in(name: str, data: bytes) -> tuple[list[tuple[str, bytes]], list[str]]:
    """The tables of an archive by name, and the names of what else it holds; a file that is no
    archive is the only one.

    An archive with no table that can be read is refused.
    """
    if data[:4] != b"PK\x03\x04" or _is_workbook(data):
        return [(name, data)], []
    refuse_bomb(name, data)
    found: list[tuple[str, bytes]] = []
    passed: list[str] = []
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        for part in archive.infolist():
            path = PurePosixPath(part.filename.replace("\\", "/"))
            steps = [step for step in path.parts if step not in ("..", ".")]
            hidden = any(step.startswith((".", "__MACOSX")) for step in steps)
            if not part.is_dir() and not hidden and path.suffix.lower() in READABLE:
                found.append((_called(path, archive), archive.read(part)))
            elif not part.is_dir():
                passed.append("/".join(steps))
    if not found:
        raise UnreadableFile(
            f"{name} must hold tables ({', '.join(READABLE)}). It holds none.", kept=KEPT
        )
    if len(found) > MOST_FILES:
        raise UnreadableFile(
            f"{name} holds {len(found)} tables; the most that come in at once are {MOST_FILES}.",
            kept=KEPT,
        )
    return sorted(found), sorted(passed)


def _called(path: PurePosixPath, archive: zipfile.ZipFile) -> str:
    """A file's name, with its folder where another file of the archive is called alike."""
    same = [
        one for one in archive.infolist()
        if PurePosixPath(one.filename.replace("\\", "/")).name == path.name
    ]  # fmt: skip
    return path.name if len(same) < 2 else " ".join(path.parts[-2:])


def _is_workbook(data: bytes) -> bool:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return any(part in WORKBOOK_PARTS for part in archive.namelist())
    except zipfile.BadZipFile:
        return True  # a damaged archive is refused in the words for workbooks
