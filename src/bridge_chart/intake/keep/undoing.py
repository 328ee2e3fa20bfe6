"""What an undo would mean, in words, before it is done: what rests on a batch, and what will
count instead."""

from __future__ import annotations

import sqlalchemy as sa

from bridge_chart.store import tables as t
from bridge_chart.store.versions import active_batches, current_version
from bridge_chart.terms.errors import NotFound
from bridge_chart.terms.wording import agree, count


def consequences(engine: sa.Engine, batch_id: int) -> list[str]:
    """Sentences, most telling first; none where nothing rests on the batch."""
    with engine.connect() as connection:
        query = sa.select(t.batch.c.kind).where(t.batch.c.id == batch_id)
        kind = connection.scalar(query)
        if kind is None:
            raise NotFound(f"There is no batch {batch_id}.", next_step="Look in the history.")
        asking = _Asking(connection, batch_id)
        if kind == "roster":
            told = asking.of_roster()
        elif kind == "results":
            told = asking.of_results()
        elif kind == "names":
            told = asking.of_names()
        else:
            told = asking.of_table(kind)
        return [*told, *asking.of_any()]


class _Asking:
    """Counts over the batches that count now. `others`: all of those but this one."""

    def __init__(self, connection: sa.Connection, batch_id: int) -> None:
        self.connection, self.batch = connection, batch_id
        self.active = active_batches(current_version(connection))

    def _rows(self, query: str) -> list[tuple[object, ...]]:
        others = f"(SELECT batch_id FROM ({self.active}) AS a WHERE batch_id <> {self.batch})"
        text = query.format(batch=self.batch, others=others)
        return [tuple(row) for row in self.connection.execute(sa.text(text))]

    def _number(self, query: str) -> int:
        return int(str(self._rows(query)[0][0]))

    def of_roster(self) -> list[str]:
        """Results of students whom only this roster names; which roster holds instead."""
        only = (
            "SELECT DISTINCT student_id FROM enrolment WHERE batch_id = {batch} "
            "EXCEPT SELECT student_id FROM enrolment WHERE batch_id IN {others}"
        )
        told = []
        alone = self._number(f"SELECT count(*) FROM ({only}) AS alone")
        if alone:
            stand = agree(alone, "stand")
            who = f"{count(alone, 'student')} {stand} on no other roster"
            told.append(f"{who}; no answer shows them until one does.")
        rows = self._rows(
            "SELECT batch.title, count(*) FROM attempt JOIN batch ON batch.id = batch_id "
            f"WHERE batch_id IN {{others}} AND student_id IN ({only}) "
            "GROUP BY batch.id, batch.title ORDER BY count(*) DESC LIMIT 6"
        )
        for title, n in rows:
            results = count(int(str(n)), "result")
            told.append(f"{results} of “{title}” wait until a roster names these students again.")
        before = self._rows(
            "SELECT other.effective_date FROM batch AS mine JOIN batch AS other "
            "ON other.academic_year = mine.academic_year AND other.kind = 'roster' "
            "WHERE mine.id = {batch} AND other.id IN {others} ORDER BY other.effective_date DESC"
        )
        held = f"The roster of {before[0][0]} holds instead." if before else (
            "No other roster of this school year is kept: its students are on no roll."
        )  # fmt: skip
        return [*told, held]

    def of_results(self) -> list[str]:
        """Sittings that lose all results; results that an earlier file holds too."""
        told = []
        lost = self._rows(
            "SELECT assessment.name, subject.name, sitting.name FROM sitting "
            "JOIN assessment ON assessment.id = assessment_id "
            "LEFT JOIN subject ON subject.id = subject_id WHERE sitting.id IN ("
            "SELECT sitting_id FROM attempt WHERE batch_id = {batch} "
            "EXCEPT SELECT sitting_id FROM attempt WHERE batch_id IN {others}) "
            "ORDER BY assessment.name, subject.name, sitting.name"
        )
        names = [", ".join(str(part) for part in row if part) for row in lost]
        if names:
            shown = "; ".join(names[:4]) + (" …" if len(names) > 4 else "")
            told.append(f"{count(len(names), 'sitting')} will have no result left: {shown}.")
        again = self._number(
            "SELECT count(*) FROM attempt AS mine WHERE batch_id = {batch} AND EXISTS ("
            "SELECT FROM attempt AS other WHERE other.batch_id IN {others} "
            "AND other.student_id = mine.student_id AND other.sitting_id = mine.sitting_id)"
        )
        if again:
            told.append(f"For {count(again, 'result')} another file’s value counts instead.")
        return told

    def of_names(self) -> list[str]:
        """Names come apart; what was read by them since stays so."""
        since = self._number(
            "SELECT count(*) FROM batch WHERE id IN {others} AND id > {batch} "
            "AND kind IN ('roster', 'results')"
        )
        told = ["Its names mean themselves again."]
        if since:
            stay = agree(since, "stay")
            told.append(f"{count(since, 'file')} kept since {stay} as read with them.")
        return told

    def of_table(self, kind: str) -> list[str]:
        """Files of results whose grades or marks are read with the table."""
        query = (
            "SELECT count(DISTINCT attempt.batch_id) FROM attempt "
            "JOIN sitting ON sitting.id = sitting_id "
            "JOIN assessment ON assessment.id = assessment_id "
            "WHERE attempt.batch_id IN {others} AND assessment.name IN "
            "(SELECT cells->>'test' FROM table_row WHERE batch_id = {batch})"
        )
        n = self._number(query)
        what = {"scale": "Their grades keep their names and lose order, points and pass line",
                "questions": "Their questions lose strands, topics and keys",
                "national": "Comparisons with the nation need another table"}.get(kind)  # fmt: skip
        if what is None:
            return []
        return [f"{count(n, 'file')} of results {agree(n, 'use')} this table. {what}."] if n else []

    def of_any(self) -> list[str]:
        """What is remembered from the batch, and rows of it that were settled."""
        told = []
        names = self._number(
            "SELECT count(*) FROM alias WHERE batch_id = {batch} AND revoked_version IS NULL"
        )
        if names:
            told.append(f"{count(names, 'remembered number')} {agree(names, 'rest')} until then.")
        settled = self._number(
            "SELECT count(*) FROM set_aside WHERE settled_by = {batch} AND batch_id IN {others}"
        )
        if settled:
            again = agree(settled, "count")
            told.append(f"{count(settled, 'row')} that it settled {again} as set aside again.")
        return told
