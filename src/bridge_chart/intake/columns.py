"""What each column is: guessed by name and content, corrected by a person or a mapping file."""

from __future__ import annotations

import re
from collections.abc import Mapping

from bridge_chart.intake.read import KEPT, Sheet
from bridge_chart.intake.values import dates, numbers
from bridge_chart.terms.errors import InvalidQuestion, UnreadableFile
from bridge_chart.terms.finding import Choice, ColumnInfo

COMMON = {
    "number": r"((student|pupil|learner|candidate|admission|school)s? ?)?"
    r"(number|numb|no|nr|id|code|ref|reference|#)|student|pupil|learner|candidate|sid",
    "given_name": r"(given|first|fore|chosen) ?names?",
    "family_name": r"(family|last|sur) ?name",
    "full_name": r"((student|pupil|learner|candidate|full) ?)?name",
    "birth_date": r"(birth ?date|date of birth|dob|born)",
    "year_level": r"(year|year ?level|year ?group|yr|grade ?level|yl)",
}
ROSTER = {
    **COMMON,
    "school": r"(school|school ?name|site|campus)",
    "class": r"(class|class ?name|form|form ?class|group|registration|homeroom)",
    "teacher": r"(teacher|class ?teacher|form ?teacher|tutor|staff|taught ?by)",
}
RESULTS = {
    **COMMON,
    "test": r"(test|test ?name|assessment|exam|survey)",
    "subject": r"(subject|learning ?area|domain)",
    "sitting": r"(sitting|session|term|window|round|season)",
    "date": r"(date|test ?date|sitting ?date|date ?(taken|sat))",
    "status": r"(status|attendance|outcome ?code)",
    "score:scaled": r"(scaled|scale|standardi[sz]ed)( ?score)?",
    "score:percent": r"(percent|percentage|per ?cent|%|pct)( ?(score|correct|mark))?",
    "score:level": r"((performance|achievement|proficiency) ?)?(level|band)",
    "predicted": r"(predicted|forecast)( (grade|level|score|mark))?",
    "target": r"([a-z]+ )*target( (grade|level|score|mark))?",
    "score:grade": r"([a-z]+ )*grade",
    "score:raw": r"(raw|total)?[ ]?(score|mark|marks|points|result|total)",
    "form": r"(test ?)?(form|booklet|version)",
    "question": r"q(uestion)? ?\d{1,3} ?[a-z]?( [ivx]+)?|\d{1,3} ?[a-z]?",
}
SCALE = {
    "test": RESULTS["test"],
    "subject": RESULTS["subject"],
    "score": r"(kind of )?(score|scale)",
    "step": r"(step|grade|level|name)",
    "points": r"points?|value",
    "passes": r"pass(es)?|pass ?line|passed",
    "synonyms": r"synonyms?|also( written)?|other names?",
    "year_level": COMMON["year_level"],
    "from": r"from|cut( score)?|lowest( score)?",
}
QUESTIONS = {
    "test": RESULTS["test"],
    "subject": RESULTS["subject"],
    "sitting": RESULTS["sitting"],
    "form": RESULTS["form"],
    "question": r"question( number)?|q|item",
    "maximum": r"max(imum)?( marks?)?|marks|available|out of",
    "strand": r"strand|area|content( area)?",
    "topic": r"topic",
    "objective": r"objective|standard",
    "skill": r"skill",
    "type": r"type|question type",
    "key": r"key|right( option)?|answer",
}
NATIONAL = {
    "test": RESULTS["test"],
    "subject": RESULTS["subject"],
    "sitting": RESULTS["sitting"],
    "form": RESULTS["form"],
    "year_level": COMMON["year_level"],
    "score": r"(kind of )?(score|scale)",
    "statistic": r"statistic|figure|measure",
    "of": r"of|percentile|step|question",
    "value": r"value",
    "published": r"published|issued|as of",
}
PATTERNS = {
    "roster": ROSTER,
    "results": RESULTS,
    "scale": SCALE,
    "questions": QUESTIONS,
    "national": NATIONAL,
}
TABLES = ("scale", "questions", "national")
"""Kinds of file that hold a table of reference, not students."""
ROLES = {
    "roster": {
        "number": "student number", "given_name": "given name", "family_name": "family name",
        "full_name": "full name", "birth_date": "birth date", "school": "school",
        "year_level": "year level", "class": "class", "teacher": "teacher",
        "characteristic": "characteristic", "ignore": "leave out",
    },
    "results": {
        "number": "student number", "given_name": "given name", "family_name": "family name",
        "full_name": "full name", "birth_date": "birth date", "year_level": "year level",
        "test": "test", "subject": "subject", "sitting": "sitting", "date": "date",
        "status": "status", "score:scaled": "scaled score", "score:raw": "raw mark",
        "score:percent": "percent", "score:level": "level", "score:grade": "grade",
        "form": "form of the test", "predicted": "predicted", "target": "target",
        "question": "marks of a question", "ignore": "leave out",
    },
    **{
        kind: {**{role: role.replace("_", " ") for role in PATTERNS[kind]}, "ignore": "leave out"}
        for kind in TABLES
    },
}  # fmt: skip
MOST_OPTIONS = 60
REPEATABLE = ("characteristic", "ignore", "target", "question")


def role_choices(kind: str) -> list[Choice]:
    """The roles that a column may have, for pickers and error texts."""
    return [Choice(key=key, label=label) for key, label in ROLES[kind].items()]


def understand(
    kind: str, sheet: Sheet, given: Mapping[str, str], score: str | None = None
) -> list[ColumnInfo]:
    """The columns with their roles. `given`: header (or "#3" for the third column) → role.

    `score` says what an unspecific score column holds. A characteristic's role is
    "characteristic" (named by its header) or "characteristic:Name"; a target's alike.
    Errors: InvalidQuestion for a role or header that does not exist.
    """
    fixed = _fixed(kind, sheet, given)
    taken = {role for role in fixed.values() if role not in REPEATABLE}
    columns: list[ColumnInfo] = []
    for index, header in enumerate(sheet.headers):
        role, why, confident = fixed.get(index, ""), "as you said", True
        if not role:
            role, why, confident = _guess(kind, sheet, index)
            if role == "score:raw" and score:
                role, why = f"score:{score}", "a score, and you said which"
            if role in taken and role not in REPEATABLE:
                role, why, confident = "ignore", f"another column is the {_label(kind, role)}", True
            taken.add(role)
        if role == "characteristic":
            role = f"characteristic:{header}"
        values = sheet.column(index)
        columns.append(
            ColumnInfo(
                index=index,
                header=header,
                role=role,
                why=why,
                confident=confident,
                examples=values.filter(values != "").unique(maintain_order=True).head(4).to_list(),
            )
        )
    return columns


def position_of(columns: list[ColumnInfo], role: str) -> int | None:
    """The column that has the role, if any."""
    return next((column.index for column in columns if column.role == role), None)


def need_number(sheet: Sheet, columns: list[ColumnInfo]) -> int:
    """The student number's column; UnreadableFile without one."""
    at = position_of(columns, "number")
    if at is None:
        raise UnreadableFile(
            f"{sheet.name} must have a column with student numbers. "
            f"Its columns are {', '.join(sheet.headers[:12])} instead.",
            kept=KEPT,
            next_step="Say which column is the student number.",
            missing_role="number",
        )
    return at


def _label(kind: str, role: str) -> str:
    return ROLES[kind].get(_plain(role), role)


def _plain(role: str) -> str:
    """The role without the name that it may carry: “characteristic:Sex” is a characteristic."""
    named = role.split(":", 1)[0]
    return named if named in ("characteristic", "target") else role


def _fixed(kind: str, sheet: Sheet, given: Mapping[str, str]) -> dict[int, str]:
    out: dict[int, str] = {}
    for header, role in given.items():
        numbered = re.fullmatch(r"#(\d+)", header)
        if numbered and int(numbered[1]) <= len(sheet.headers):
            index = int(numbered[1]) - 1
        elif header in sheet.headers:
            index = sheet.headers.index(header)
        else:
            raise InvalidQuestion(
                f"The mapping names the column “{header}”, which {sheet.name} does not have.",
                next_step=f"Its columns are: {', '.join(sheet.headers)}.",
            )
        plain = _plain(role)
        if plain not in ROLES[kind]:
            raise InvalidQuestion(
                f"The mapping gives “{header}” the role “{role}”, which does not exist.",
                next_step=f"Roles are: {', '.join(ROLES[kind])}.",
            )
        if role in out.values() and plain not in REPEATABLE:
            raise InvalidQuestion(
                f"Two columns are said to be the {_label(kind, role)}.",
                kept=KEPT,
                next_step="Leave one of them out.",
            )
        out[index] = role
    return out


def _guess(kind: str, sheet: Sheet, index: int) -> tuple[str, str, bool]:
    words = re.sub(r"[^a-z0-9%#]+", " ", sheet.headers[index].lower()).strip()
    for role, pattern in PATTERNS[kind].items():
        if re.fullmatch(pattern, words) and _fits(kind, role, sheet, index):
            return role, "by its name", True
    if kind != "roster":
        return "ignore", "not known", False
    values = sheet.column(index)
    different = values.n_unique()
    if different > min(MOST_OPTIONS, max(2, sheet.cells.height // 2)):
        return "ignore", f"{different} different values: too many for a characteristic", False
    if different == 1 and values[0] == "":
        return "ignore", "empty", True
    words = "one value" if different == 1 else f"{different} different values"
    return "characteristic", words, different <= 12


def _fits(kind: str, role: str, sheet: Sheet, index: int) -> bool:
    """Whether the content can be what the name says."""
    values = sheet.column(index).head(2000)
    filled = values.filter(values != "")
    if not len(filled):
        return role not in ("date", "birth_date")
    if role in ("date", "birth_date"):
        return dates(filled).unread < len(filled) / 2
    if role in ("score:level", "score:grade"):
        return filled.n_unique() <= MOST_OPTIONS
    marks = role == "question" and kind == "results"
    if role.startswith("score:") or marks:
        return int(numbers(filled).is_not_null().sum()) > len(filled) / 4
    return True
