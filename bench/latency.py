"""Twenty people asking at once: a real server on loopback, each changing one slot after another.

Every change asks what the page asks: the answer, then the split strip around it. Times are those
of the client, from the request to the last byte, so that waiting for a free worker counts. The
same answers worked out alone, in this process, stand beside them as the core's own share; an
endpoint that does nothing says what the server and the load generator cost.
"""

from __future__ import annotations

import http.client
import json
import random
import statistics
import threading
import time
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from bench.district import Bench, say
from bridge_chart.access.managing import add_account
from bridge_chart.answers.asking.ask import answer_on, read_question
from bridge_chart.answers.asking.bind import bind
from bridge_chart.cli.serving import start_serving
from bridge_chart.store.cluster import free_port
from bridge_chart.store.snapshot_build import snapshot_of

PEOPLE = 20
SECONDS = 60.0
THINKING = 2.0
"""Mean seconds that a person looks at an answer before changing the next slot."""
PASSWORD = "latency-on-loopback"


@dataclass
class Timed:
    answers: list[float] = field(default_factory=list)
    strips: list[float] = field(default_factory=list)
    empty: list[float] = field(default_factory=list)
    refused: int = 0


def walk(rng: random.Random) -> Iterator[dict[str, Any]]:
    """Questions that differ from one to the next in one slot."""
    level, subject, sitting = 8, "Mathematics", "spring 2026"
    split: dict[str, Any] = {"field": "school"}
    against: dict[str, Any] | None = {"prior": {}}
    narrow: list[dict[str, Any]] = []
    show = "spans"
    while True:
        slot = rng.choice(("who", "who", "what", "split", "yardstick", "lens"))
        if slot == "who":
            level = rng.choice((0, 4, 5, 6, 7, 8, 9, 10))
            value = {"characteristic": rng.choice(("Sex", "Meal support", "Learning plan"))}
            known = {"Sex": "F"}.get(value["characteristic"], "yes")
            narrow = [{**value, "in": [known]}] if rng.random() < 0.5 else []
        elif slot == "what":
            subject = rng.choice(("Mathematics", "Reading"))
            sitting = rng.choice(("spring 2026", "spring 2025"))
        elif slot == "split":
            split = rng.choice((
                {"field": "school"}, {"field": "class"}, {"characteristic": "Sex"},
                {"characteristic": "Home language"}, {"band": "prior"},
            ))  # fmt: skip
        elif slot == "yardstick":
            against = rng.choice((None, {"prior": {}}, {"prior": {"expect": "spline"}}))
        else:
            show = rng.choice(("spans", "levels", "table", "spread"))
        years = [{"field": "year_level", "in": [level]}] if level else []
        yield {
            "who": {"all": [*years, *narrow]},
            "what": [{"assessment": "Spring survey", "subject": subject, "sitting": sitting}],
            "split": [split], "against": against, "show": show,
        }  # fmt: skip


class Person(threading.Thread):
    """Asks until the time is over, signed in by `cookie`."""

    def __init__(self, number: int, port: int, until: float, cookie: str = "") -> None:
        super().__init__(daemon=True)
        self.rng = random.Random(number)
        self.connection = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        self.until = until
        self.timed = Timed()
        self.cookie = cookie

    def send(self, method: str, path: str, body: Any = None) -> tuple[float, int]:
        heads = {"Content-Type": "application/json", "Cookie": self.cookie}
        text = json.dumps(body) if body else None
        begun = time.perf_counter()
        try:
            self.connection.request(method, path, text, heads)
            response = self.connection.getresponse()
        except (http.client.HTTPException, OSError):
            self.connection.close()  # the server let an idle connection go; begin again
            self.connection.request(method, path, text, heads)
            response = self.connection.getresponse()
        response.read()
        if response.getheader("Set-Cookie"):
            self.cookie = str(response.getheader("Set-Cookie")).split(";")[0]
        return time.perf_counter() - begun, response.status

    def sign_in(self) -> str:
        """The cookie of a session. One is enough for all: signing in often is refused."""
        _, status = self.send("POST", "/api/session", {"login": "latency", "password": PASSWORD})
        if status != 200:
            raise RuntimeError(f"signing in gave {status}")
        return self.cookie

    def run(self) -> None:
        time.sleep(self.rng.random() * THINKING)
        for question in walk(self.rng):
            if time.perf_counter() > self.until:
                return
            taken, status = self.send("POST", "/api/answers", question)
            if status == 200:
                self.timed.answers.append(taken)
            else:
                self.timed.refused += 1
            strip = {**question, "show": "strip", "split": []}
            self.timed.strips.append(self.send("POST", "/api/answers", strip)[0])
            self.timed.empty.append(self.send("GET", "/api/health")[0])
            time.sleep(self.rng.expovariate(1 / THINKING))


def _warm_up(port: int, cookie: str) -> None:
    """Eight people for twenty seconds first: a server that has been asked before. A curve that is
    new at a version is fitted once by each worker, which takes it a quarter of a second."""
    until = time.perf_counter() + 20
    crowd = [Person(-number, port, until, cookie) for number in range(1, 9)]
    for person in crowd:
        person.start()
    for person in crowd:
        person.join()


def _alone(bench: Bench) -> list[float]:
    """The same walk worked out one after another in this process: no server, nobody waiting."""
    snapshot = snapshot_of(bench.engine, bench.settings.snapshots)
    taken = []
    for question, _ in zip(walk(random.Random(1)), range(80), strict=False):
        begun = time.perf_counter()
        try:
            bound = bind(read_question(question), snapshot)
            answer_on(bound).model_dump_json(by_alias=True)
        except Exception as error:
            if type(error).__name__ not in ("TooWide", "NotFound"):
                raise
            continue
        taken.append(time.perf_counter() - begun)
    return taken


def latency_lines(bench: Bench, people: int = PEOPLE, seconds: float = SECONDS) -> list[str]:
    """Serve the district, let people ask, and say how long they waited."""
    add_account(bench.engine, "latency", "Latency", PASSWORD, "data_lead", [])
    port = start_serving(bench.settings, free_port())
    say(f"{people} people for {seconds:.0f} s at port {port}")
    cookie = Person(0, port, 0.0).sign_in()
    _warm_up(port, cookie)
    until = time.perf_counter() + seconds
    crowd = [Person(number, port, until, cookie) for number in range(people)]
    for person in crowd:
        person.start()
    for person in crowd:
        person.join()
    answers = [t for person in crowd for t in person.timed.answers]
    strips = [t for person in crowd for t in person.timed.strips]
    empty = [t for person in crowd for t in person.timed.empty]
    alone = _alone(bench)
    base = statistics.median(empty)
    return [
        f"{people} people, thinking {THINKING:.0f} s: {len(answers)} answers, "
        f"{sum(p.timed.refused for p in crowd)} refused",
        _line("answers", answers, base),
        _line("split strips", strips, base),
        _line("worked out alone", alone, base),
        _line("an empty endpoint beside them", empty, base),
    ]


def _line(name: str, taken: list[float], base: float) -> str:
    ordered = sorted(taken)

    def at(share: float) -> float:
        return ordered[min(len(ordered) - 1, int(share * len(ordered)))]

    half, late, last = at(0.5), at(0.95), at(0.99)
    return (
        f"  {name}: median {1000 * half:.0f} ms, 95th {1000 * late:.0f} ms, 99th "
        f"{1000 * last:.0f} ms; median {half / base:.1f} times the empty endpoint's"
    )
