"""Turns: one at a time, urgent ones first, a long one gives way between its parts."""

from __future__ import annotations

import threading
import time

from tests.support import Place, serving

from bridge_chart.answers.asking.ask import forget_answers
from bridge_chart.answers.asking.warm import WARMING, warm
from bridge_chart.answers.kept.kept import forget_kept
from bridge_chart.answers.kept.turns import Turns


def waiting(turns: Turns, n: int) -> None:
    """Until so many urgent ones wait."""
    until = time.monotonic() + 10
    while turns._urgent < n:
        assert time.monotonic() < until
        time.sleep(0.001)


def test_urgent_ones_go_before_a_long_one_goes_on() -> None:
    turns, told = Turns(), []
    begun = threading.Event()

    def long() -> None:
        with turns.mine(urgent=False):
            begun.set()
            waiting(turns, 2)
            told.append("first part")
            turns.give_way()
            told.append("second part")

    def short(name: str) -> None:
        with turns.mine(urgent=True):
            told.append(name)

    threads = [threading.Thread(target=long)]
    threads[0].start()
    assert begun.wait(10)
    threads += [threading.Thread(target=short, args=(name,)) for name in ("a", "b")]
    for thread in threads[1:]:
        thread.start()
    for thread in threads:
        thread.join(10)
    assert told[0] == "first part"
    assert told[-1] == "second part"
    assert sorted(told[1:3]) == ["a", "b"]


def test_only_one_at_a_time() -> None:
    turns = Turns()
    inside, most = 0, 0
    guard = threading.Lock()

    def work(urgent: bool) -> None:
        nonlocal inside, most
        for _ in range(20):
            with turns.mine(urgent=urgent):
                with guard:
                    inside += 1
                    most = max(most, inside)
                time.sleep(0.0002)
                with guard:
                    inside -= 1

    threads = [threading.Thread(target=work, args=(n % 2 == 0,)) for n in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(20)
    assert most == 1


def test_giving_way_without_a_turn_does_nothing() -> None:
    turns = Turns()
    turns.give_way()
    with turns.mine(urgent=False):
        turns.give_way()
    with turns.mine(urgent=True):
        pass


def test_who_asks_goes_before_the_warming(demo: Place) -> None:
    """The usual questions are worked out behind a server that answers already."""
    forget_kept()
    forget_answers()
    done: list[int] = []
    behind = threading.Thread(target=lambda: done.append(warm(demo.snapshot)))
    behind.start()
    asked = {"what": [{"assessment": "Harbour certificate", "subject": "Geography"}]}
    answered = demo.ask(asked)
    behind.join()
    assert answered.coverage[0].counted > 0
    assert done[0] > 10
    assert not WARMING.is_set()
    with serving(demo) as app:
        assert app.test_client().get("/api/health").get_json()["warming"] is False
