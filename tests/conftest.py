"""Fixtures: the session's cluster, fresh places, and the demo district loaded once."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from argon2 import PasswordHasher
from hypothesis import settings
from tests.effort import LONG
from tests.support import Place, copy_of, forget_place, new_place, running_cluster

from bridge_chart.access import accounts
from bridge_chart.cli.demo import load_demo
from bridge_chart.store.settings import Settings

# A password in a test need not be dear to guess.
accounts._hasher = PasswordHasher(time_cost=1, memory_cost=8, parallelism=1)

# How long an example takes says something of the machine, not of the program.
settings.register_profile("whatever the machine", deadline=None)
settings.load_profile("whatever the machine")


@pytest.fixture(scope="session")
def long() -> bool:
    """Whether everything is to be tried (./bridge test --long), not a sample of it."""
    return LONG


@pytest.fixture(scope="session")
def many(long: bool) -> int:
    """How many of many alike are tried."""
    return 100_000 if long else 4


@pytest.fixture(scope="session")
def cluster() -> Iterator[Settings]:
    with running_cluster() as settings:
        yield settings


@pytest.fixture
def place(cluster: Settings) -> Iterator[Place]:
    """An empty instance of this test's own."""
    made = new_place(cluster)
    yield made
    forget_place(made)


@pytest.fixture(scope="session")
def untouched(cluster: Settings) -> Iterator[Place]:
    """Merrow Sound, brought in through the real intake. No test uses it: it is there to be copied,
    so that nothing which one test keeps is found by another."""
    made = new_place(cluster)
    load_demo(made.settings, made.engine)
    yield made
    made.engine.dispose()


@pytest.fixture(scope="module")
def demo(cluster: Settings, untouched: Place) -> Iterator[Place]:
    """Merrow Sound for the tests of one module."""
    made = copy_of(cluster, untouched)
    yield made
    forget_place(made)
