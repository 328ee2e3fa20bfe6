"""The school of a roster that names none: its file is often called by it."""

from __future__ import annotations

import re
from pathlib import PurePath

from bridge_chart.intake.cells.findings import Findings
from bridge_chart.intake.reading.sheet import KEPT, Sheet
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.errors import UnreadableFile
from bridge_chart.terms.finding import Choice


def school_of_file(sheet: Sheet, snapshot: Snapshot, found: Findings) -> str:
    """The school that a file without a column of schools is of, by its name: asked, unless it is
    the name of a school that is kept."""
    named = school_named(sheet.name)
    known = {school.name.casefold(): school.name for school in snapshot.schools}
    if not named:
        raise UnreadableFile(
            f"{sheet.name} must have a column with each student's school.",
            kept=KEPT,
            next_step="Say which column is the school, or of which school the whole file is.",
            missing_role="school",
        )
    school = known.get(named.casefold(), named)
    found.add(
        "school_by_name", "ask" if named.casefold() in known else "stop",
        f"Is the whole file of {school}?",
        "No column names a school; the file is called so. Another is said under Columns", [],
        [Choice(key="yes", label=f"It is of {school}")],
        "yes" if named.casefold() in known else None,
    )  # fmt: skip
    return school


def school_named(file: str) -> str:
    """The school that a file's name names, without what else stands there.

    >>> school_named("Elm Hill roster 2025-26.csv"), school_named("roster.csv")
    ('Elm Hill', '')
    """
    words = (
        r"(?i)\b(roster|register|roll|class ?list|students?|pupils?|learners?|census|export|list|"
        r"data|file|table|all|final|copy|new|year|y\d+|sept?(ember)?|\d+)\b|[-–_.()]"
    )
    bare = re.sub(words, " ", PurePath(file.replace("_", " ")).stem)
    return re.sub(r"\s+", " ", bare).strip()
