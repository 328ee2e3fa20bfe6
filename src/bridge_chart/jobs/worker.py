"""The worker: takes long work from the queue, one piece after the other, until it is stopped.

Any number of them may run against one database. Work whose worker died is taken up by another.
"""

from __future__ import annotations

import contextlib
import logging
import os
import signal
import sys
import threading
import time

import procrastinate
import sqlalchemy as sa

from bridge_chart.answers.beside.backups import back_up_if_due
from bridge_chart.answers.person.erased import carry_out_erasures
from bridge_chart.intake.drafts.large import go_through
from bridge_chart.intake.drafts.work import sweep
from bridge_chart.intake.erasing.asking import forget_old_audit
from bridge_chart.store.database import connect, connect_owner
from bridge_chart.store.queue import ERASE, WORK, queue_for_worker
from bridge_chart.store.settings import Settings, load_settings
from bridge_chart.terms.errors import BridgeError

SILENT_FOR = 30
"""Seconds after which a worker that says nothing is taken for dead."""


def make_queue(settings: Settings, engine: sa.Engine) -> procrastinate.App:
    """The queue with its tasks."""
    queue = queue_for_worker(settings)

    @queue.task(name=WORK)
    def work(work_id: int) -> None:
        go_through(engine, settings, work_id)

    @queue.periodic(cron="* * * * *")
    @queue.task(name="bridge_chart.take_up", queueing_lock="take_up")
    async def take_up(timestamp: int) -> None:
        """Hand out again what dead workers held, and forget work of long ago."""
        await take_up_again(queue)
        sweep(engine)

    @queue.task(name=ERASE)
    def erase() -> None:
        """Carry out the erasures that wait; the tables' owner does it."""
        owner = connect_owner(settings)
        try:
            carry_out_erasures(owner, settings)
        finally:
            owner.dispose()

    @queue.periodic(cron="43 * * * *")
    @queue.task(name="bridge_chart.forget", queueing_lock="forget")
    def forget(timestamp: int) -> None:
        """What the rules keep no longer, and erasures whose worker died."""
        owner = connect_owner(settings)
        try:
            carry_out_erasures(owner, settings)
            forget_old_audit(owner)
        finally:
            owner.dispose()

    @queue.periodic(cron="17 * * * *")
    @queue.task(name="bridge_chart.back_up", queueing_lock="back_up")
    def daily(timestamp: int) -> None:
        """The day's backup, tried at once."""
        back_up_if_due(engine, settings)

    return queue


async def take_up_again(queue: procrastinate.App) -> None:
    """Hand out again what dead workers held."""
    jobs = queue.job_manager
    for task in (WORK, ERASE):
        for job in await jobs.get_stalled_jobs(task_name=task, seconds_since_heartbeat=SILENT_FOR):
            await jobs.retry_job(job)


def run(settings: Settings, *, until_empty: bool = False) -> None:
    """Go through the queue; `until_empty`: leave when nothing waits."""
    engine = connect(settings)
    try:
        make_queue(settings, engine).run_worker(
            wait=not until_empty,
            concurrency=1,
            delete_jobs="always",
            shutdown_graceful_timeout=5,
            fetch_job_polling_interval=2,
        )
    finally:
        engine.dispose()


def end_with(parent: int) -> None:
    """What was started beside another process ends when that one is gone."""
    while os.getppid() == parent:
        time.sleep(2)
    os.kill(os.getpid(), signal.SIGTERM)


def main() -> None:
    """`python -m bridge_chart.jobs.worker [--beside PID]`."""
    os.umask(0o077)
    logging.basicConfig(level=logging.WARNING)
    if "--beside" in sys.argv:
        server = int(sys.argv[sys.argv.index("--beside") + 1])
        watch = threading.Thread(target=end_with, args=(server,), daemon=True)
        watch.start()
    try:
        with contextlib.suppress(KeyboardInterrupt):
            run(load_settings())
    except BridgeError as error:
        sys.stderr.write(f"bridge: {error}\n")
        sys.exit(error.exit_code)


if __name__ == "__main__":
    main()
