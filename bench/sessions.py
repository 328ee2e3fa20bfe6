"""Fifty people at once: sessions of every role ask, list, look and hide names for two minutes.

Every answer is held against what the same question gave the same role alone: an answer that is
another's is a mix-up. Run on an instance that holds the demo district and is served at ADDRESS:

    python -m bench.sessions http://127.0.0.1:8400
"""

from __future__ import annotations

import hashlib
import random
import statistics
import sys
import threading
import time
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import requests

from bridge_chart.cli.demo import ACCOUNTS, PASSWORD
from bridge_chart.store.settings import load_settings

SECONDS = 120
SESSIONS = 50
SETTLING = 20
MATHS = {"assessment": "Spring survey", "subject": "Mathematics"}
QUESTIONS: list[dict[str, Any]] = [
    {"what": [MATHS], "split": [split], "show": show, "against": against}
    for split in ({"field": "class"}, {"field": "year_level"}, {"characteristic": "Home language"})
    for show, against in (("spans", {"prior": {}}), ("table", None), ("spread", None))
] + [{"what": [MATHS], "show": "students", "page": {"size": 50}}]
READS = ("/api/catalogue", "/api/published", "/api/find?text=8a", "/api/lists", "/api/session")


@dataclass
class Seen:
    """What came back: how often each status, answers that were not the role's own, milliseconds."""

    statuses: Counter[int] = field(default_factory=Counter)
    mixed: list[str] = field(default_factory=list)
    took: list[float] = field(default_factory=list)
    lock: threading.Lock = field(default_factory=threading.Lock)


def signed_in(address: str, login: str) -> requests.Session:
    session = requests.Session()
    answer = session.post(f"{address}/api/session", json={"login": login, "password": PASSWORD})
    answer.raise_for_status()
    return session


def asked(session: requests.Session, address: str, what: Any) -> tuple[int, str]:
    """The status of a question or page, and a digest of what it says."""
    if isinstance(what, str):
        answer = session.get(f"{address}{what}")
    else:
        answer = session.post(f"{address}/api/answers", json=what)
    return answer.status_code, hashlib.sha256(answer.content).hexdigest()


def alone(address: str, login: str) -> list[tuple[Any, tuple[int, str]]]:
    """Every question with what it gives one role when nobody else asks."""
    session = signed_in(address, login)
    return [(what, asked(session, address, what)) for what in (*READS, *QUESTIONS)]


def one(
    address: str, login: str, known: list[tuple[Any, tuple[int, str]]], until: float, seen: Seen,
    draw: random.Random,
) -> None:  # fmt: skip
    session = signed_in(address, login)
    while time.monotonic() < until:
        what, expected = draw.choice(known)
        begun = time.monotonic()
        try:
            found = asked(session, address, what)
        except requests.RequestException as error:
            with seen.lock:
                seen.mixed.append(f"{login}: {type(error).__name__}")
            continue
        with seen.lock:
            seen.took.append(1000 * (time.monotonic() - begun))
            seen.statuses[found[0]] += 1
            if found != expected:
                seen.mixed.append(f"{login}: {what} gave {found[0]}")
        time.sleep(draw.uniform(0.05, 0.4))


def memory(server: int) -> int:
    """Kilobytes that a server and all below it hold by themselves."""
    below = {server}
    for _ in range(3):
        for path in Path("/proc").glob("[0-9]*/stat"):
            try:
                parent = int(path.read_text().rsplit(")", 1)[1].split()[1])
            except (OSError, IndexError):
                continue
            if parent in below:
                below.add(int(path.parent.name))
    total = 0
    for process in below:
        try:
            told = Path(f"/proc/{process}/smaps_rollup").read_text()
        except OSError:
            continue
        total += sum(int(line.split()[1]) for line in told.splitlines()
                     if line.startswith(("Private_Clean", "Private_Dirty")))  # fmt: skip
    return total


def main(address: str) -> int:
    server = int((load_settings().home / "server.pid").read_text())
    roles = [login for login, *_ in ACCOUNTS]
    known = {login: alone(address, login) for login in roles}
    seen, begun = Seen(), time.monotonic()
    held: list[tuple[float, int]] = []
    threads = []
    for n in range(SESSIONS):
        login = roles[n % len(roles)]
        told = (address, login, known[login], begun + SECONDS, seen, random.Random(n))
        threads.append(threading.Thread(target=one, args=told))
    for thread in threads:
        thread.start()
    while time.monotonic() < begun + SECONDS:
        time.sleep(5)
        held.append((time.monotonic() - begun, memory(server)))
    for thread in threads:
        thread.join()
    late = [kilobytes for at, kilobytes in held if at > SETTLING]
    took = sorted(seen.took)
    print(f"{SESSIONS} sessions, {SECONDS} s: {len(took)} answers, {dict(seen.statuses)}")
    print(f"not the role's own: {len(seen.mixed)} {seen.mixed[:3]}")
    print(
        f"median {statistics.median(took):.0f} ms, 95 % within {took[int(0.95 * len(took))]:.0f} ms"
    )
    print(f"memory from {late[0] / 1024:.0f} to {late[-1] / 1024:.0f} MB, "
          f"ratio {late[-1] / late[0]:.2f}, at most {max(late) / 1024:.0f}")  # fmt: skip
    broken = sum(n for status, n in seen.statuses.items() if status >= 500)
    return 1 if broken or seen.mixed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1]))
