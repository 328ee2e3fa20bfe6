"""Fixtures: the session's cluster, fresh places, and the demo district loaded once."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from hypothesis import settings
from tests.support import Place, new_place, running_cluster

from bridge_chart.cli.demo import load_demo
from bridge_chart.store.settings import Settings

# How long an example takes says something of the machine, not of the program.
settings.register_profile("whatever the machine", deadline=None)
settings.load_profile("whatever the machine")


@pytest.fixture(scope="session")
def cluster() -> Iterator[Settings]:
    with running_cluster() as settings:
        yield settings


@pytest.fixture
def place(cluster: Settings) -> Iterator[Place]:
    """An empty instance of this test's own."""
    made = new_place(cluster)
    yield made
    made.engine.dispose()


@pytest.fixture(scope="session")
def demo(cluster: Settings) -> Iterator[Place]:
    """Merrow Sound, brought in through the real intake. Tests only read it."""
    made = new_place(cluster)
    load_demo(made.settings, made.engine)
    yield made
    made.engine.dispose()
