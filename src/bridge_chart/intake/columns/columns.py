"""What each column is: guessed by name and content, corrected by a person or a mapping file."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping

import polars as pl

from bridge_chart.intake.cells.values import dates, numbers
from bridge_chart.intake.columns.column_names import (
    COMMON,
    PATTERNS,
    RESULTS,
    ROLES,
    ROSTER,
    TABLES,
)
from bridge_chart.intake.columns.headings import Heading, Known, read_heading
from bridge_chart.intake.columns.shapes import BESIDE
from bridge_chart.intake.reading.sheet import KEPT, Sheet
from bridge_chart.intake.said.settings import About
from bridge_chart.terms.errors import InvalidQuestion, UnreadableFile
from bridge_chart.terms.finding import Choice, ColumnInfo
from bridge_chart.terms.words import PLAIN, spoken

NO_SUBJECT = (
    r"(comments?|notes?|remarks?|age|months?|attendance|absences?|late(s|ness)?|sex|gender|house|"
    r"postcode|e ?mail|(tele)?phone|rank|position|place|set|stream|line|row|column|effort|"
    r"behaviour|address|language|country|area|index|count|n)( \d+)?"
)
"""Names of columns that hold figures or letters and are yet no results of a subject."""
RESULT_ROLES = ("score:", "predicted", "target")
ROLES_OF_SCORES = tuple(r for r in RESULTS if r.startswith(RESULT_ROLES))
PLAIN_SCORES = tuple(r for r in ROLES_OF_SCORES if r.startswith("score:"))
MOST_OPTIONS = 60
SLIPS = 0.1
REPEATABLE = ("characteristic", "ignore", "target", "question", "strand")


def role_choices(kind: str) -> list[Choice]:
    """The roles that a column may have, for pickers and error texts."""
    return [Choice(key=key, label=_label(kind, key)) for key in ROLES[kind]]


def understand(
    kind: str,
    sheet: Sheet,
    given: Mapping[str, str],
    score: str | None = None,
    about: Mapping[str, About] | None = None,
    known: Known | None = None,
) -> list[ColumnInfo]:
    """The columns with their roles. `given`: header (or "#3" for the third column) → role.

    `score` says what an unspecific score column holds; `about`: what single columns of results
    are about, `known`: names in use, which a column's name may hold. A characteristic's role is
    "characteristic" (named by its header) or "characteristic:Name"; a target's alike.
    Errors: InvalidQuestion for a role or header that does not exist.
    """
    told = {_index_of(sheet, header): value for header, value in (about or {}).items()}
    fixed = _fixed(kind, sheet, given, told)
    beside = _beside(sheet, fixed, known or Known()) if kind == "results" else {}
    wide = _wide(sheet, {*fixed, *beside}, known or Known()) if kind == "results" else {}
    taken = {(role, _key(told.get(at))) for at, role in fixed.items() if role not in REPEATABLE}
    columns: list[ColumnInfo] = []
    content = _by_content(kind, sheet, fixed, known)
    for index, header in enumerate(sheet.headers):
        role, why, confident = fixed.get(index, ""), "as you said", True
        meant = told.get(index)
        if not role and index in content:
            role, why = content[index]
            confident = True
        elif not role and index in beside:
            role, heading = beside[index]
            meant = meant or heading.about
            why, confident = f"by its name: {heading.about.sitting or heading.about.test}", True
        elif not role and index in wide:
            role, why, confident = _of_heading(wide[index], sheet, index, score)
            meant = meant or wide[index].about
        elif not role:
            role, why, confident = _guess(kind, sheet, index)
            if role == "score:raw" and score:
                role, why = f"score:{score}", "a score, and you said which"
        if index not in fixed:
            if (role, _key(meant)) in taken and role not in REPEATABLE:
                role, why, confident = "ignore", f"another column is the {_label(kind, role)}", True
            taken.add((role, _key(meant)))
        if not role.startswith(RESULT_ROLES) and role not in BESIDE:
            meant = None
        role = _named(kind, role, header)
        values = sheet.column(index)
        columns.append(
            ColumnInfo(
                index=index,
                header=header,
                role=role,
                why=why,
                confident=confident,
                examples=values.filter(values != "").unique(maintain_order=True).head(4).to_list(),
                about=meant.model_dump(mode="json", exclude_defaults=True) if meant else {},
            )
        )
    return columns


def strand_of(header: str) -> str:
    """The strand that a column's name names, without what it is worth.

    >>> strand_of("Strand: Number (max 20)"), strand_of("Algebra strand /15")
    ('Number', 'Algebra')
    """
    bare = re.sub(r"(?i)\(.*?\)|/ ?\d+$|out of \d+|\bmax(imum)? ?\d+|\b(mark|score)s?$", "", header)
    name = re.sub(r"(?i)\bstrand\b", "", bare).strip(" :-–—_")
    return re.sub(r"\s+", " ", name) or header


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
    plain = _plain(role)
    return spoken().year_level if plain == "year_level" else ROLES[kind].get(plain, role)


def _plain(role: str) -> str:
    """The role without the name that it may carry: “characteristic:Sex” is a characteristic."""
    named = role.split(":", 1)[0]
    return named if named in ("characteristic", "target", "strand") else role


def _named(kind: str, role: str, header: str) -> str:
    """Characteristics and strands are called as their columns, unless somebody said how."""
    if kind in TABLES:
        return role
    called = {"characteristic": header, "strand": strand_of(header)}.get(role)
    return f"{role}:{called}" if called else role


def _key(about: About | None) -> str:
    return (about or About()).model_dump_json()


def _index_of(sheet: Sheet, header: str) -> int:
    """A column by its name, or by its place: “#3”."""
    numbered = re.fullmatch(r"#(\d+)", header)
    if numbered and 0 < int(numbered[1]) <= len(sheet.headers):
        return int(numbered[1]) - 1
    if header in sheet.headers:
        return sheet.headers.index(header)
    raise InvalidQuestion(
        f"The mapping names the column “{header}”, which {sheet.name} does not have.",
        next_step=f"Its columns are: {', '.join(sheet.headers)}.",
    )


def _fixed(
    kind: str, sheet: Sheet, given: Mapping[str, str], about: Mapping[int, About]
) -> dict[int, str]:
    out: dict[int, str] = {}
    for header, role in given.items():
        index = _index_of(sheet, header)
        plain = _plain(role)
        if plain not in ROLES[kind]:
            raise InvalidQuestion(
                f"The mapping gives “{header}” the role “{role}”, which does not exist.",
                next_step=f"Roles are: {', '.join(ROLES[kind])}.",
            )
        same = [at for at, other in out.items() if other == role]
        if plain not in REPEATABLE and any(_key(about.get(at)) == _key(about.get(index))
                                           for at in same):  # fmt: skip
            raise InvalidQuestion(
                f"Two columns are said to be the {_label(kind, role)}.",
                kept=KEPT,
                next_step="Leave one of them out.",
            )
        out[index] = role
    return out


def _wide(sheet: Sheet, fixed: Collection[int], known: Known) -> dict[int, Heading]:
    """Columns of a wide sheet: their names say of which subject, test or sitting they are.

    A name with a subject in use is enough. New subjects are taken where at least two columns of
    one kind differ in nothing else.
    """
    by_name = set(PATTERNS["results"]) - set(ROLES_OF_SCORES)
    found: dict[int, Heading] = {}
    for index, header in enumerate(sheet.headers):
        plain = _words(header)
        if index in fixed or any(re.fullmatch(PATTERNS["results"][r], plain) for r in by_name):
            continue
        heading = read_heading(header, known)
        filled = sheet.column(index).filter(sheet.column(index) != "").head(2000)
        if re.fullmatch(NO_SUBJECT, heading.rest.lower()):
            continue
        if heading.about != About() and (not len(filled) or _can_be(filled)):
            found[index] = heading
    has_subject = any(re.fullmatch(RESULTS["subject"], _words(h)) for h in sheet.headers)
    sure = {i: h for i, h in found.items() if h.known}
    new = {i: h for i, h in found.items() if not h.known and not has_subject}
    named = {i: h for i, h in new.items() if h.role}
    kinds = [h.role for h in [*named.values(), *sure.values()]]
    out = {**sure, **{i: h for i, h in named.items() if kinds.count(h.role) > 1}}
    told = {h.about.subject for h in out.values()}
    out |= {i: h for i, h in named.items() if h.about.subject in told}
    bare = {i: h for i, h in new.items() if not h.role}
    plainly = any(re.fullmatch(RESULTS[r], _words(h)) for h in sheet.headers for r in PLAIN_SCORES)
    return {**out, **bare} if len(bare) > 1 and not out and not plainly else out


def _beside(sheet: Sheet, fixed: Mapping[int, str], known: Known) -> dict[int, tuple[str, Heading]]:
    """Columns of a form or a date that name a sitting or a test: “Autumn form”, “Date, spring”."""
    out: dict[int, tuple[str, Heading]] = {}
    for index, header in enumerate(sheet.headers):
        for role in BESIDE:
            bare = re.sub(rf"(?i)(?<!\w)({RESULTS[role]})(?!\w)", " ", header)
            if index in fixed or bare == header:
                continue
            heading = read_heading(bare, known)
            if not heading.rest and not heading.role and heading.about != About():
                out[index] = (role, heading)
    return out


def _by_content(
    kind: str, sheet: Sheet, fixed: Mapping[int, str], known: Known | None
) -> dict[int, tuple[str, str]]:
    """Columns that their values tell, where no head does: role and why."""
    at_school = _school_by_content(kind, sheet, fixed, known)
    at_number = _number_by_content(kind, sheet, fixed, known)
    out = {} if at_school is None else {at_school: ("school", "its values are names of schools")}
    if at_number is not None:
        out[at_number] = ("number", "its values are student numbers")
    return out


def _number_by_content(
    kind: str, sheet: Sheet, fixed: Mapping[int, str], known: Known | None
) -> int | None:
    """The column whose values are student numbers, where no column is called so."""
    if known is None or not len(known.numbers) or "number" in fixed.values() or kind in TABLES:
        return None
    named = [
        index for index, header in enumerate(sheet.headers)
        if re.fullmatch(COMMON["number"], _words(header)) and _fits(kind, "number", sheet, index)
    ]  # fmt: skip
    if named:
        return None
    held: dict[int, float] = {}
    for index in range(len(sheet.headers)):
        filled = sheet.column(index).head(2000).filter(sheet.column(index).head(2000) != "")
        if index not in fixed and len(filled) > 1:
            bare = filled.str.strip_chars_start("0")
            held[index] = int(bare.is_in(known.numbers.implode()).sum()) / len(filled)
    best = max(held, key=lambda at: held[at], default=None)
    return best if best is not None and held[best] > 0.5 else None


def _school_by_content(
    kind: str, sheet: Sheet, fixed: Mapping[int, str], known: Known | None
) -> int | None:
    """The column of a roster whose values are names of schools, where no column is called so."""
    if kind != "roster" or known is None or "school" in fixed.values():
        return None
    if any(re.fullmatch(ROSTER["school"], _words(header)) for header in sheet.headers):
        return None
    names = {name.casefold() for name in known.schools}
    for index in range(len(sheet.headers)):
        filled = sheet.column(index).filter(sheet.column(index) != "")
        if index not in fixed and len(filled):
            inside = filled.str.to_lowercase().is_in(list(names))
            if int(inside.sum()) > len(filled) / 2:
                return index
    return None


def _words(header: str) -> str:
    return re.sub(r"[^a-z0-9%#]+", " ", header.lower()).strip()


def _can_be(filled: pl.Series) -> bool:
    """Whether cells can be results: figures, or few short words."""
    if int(numbers(filled).is_not_null().sum()) > len(filled) / 2:
        return True
    short = int((filled.str.len_chars() <= 3).sum())
    return short > 0.9 * len(filled) and filled.n_unique() <= MOST_OPTIONS // 3


def _of_heading(
    heading: Heading, sheet: Sheet, index: int, score: str | None
) -> tuple[str, str, bool]:
    """Role, reason and confidence of a wide sheet's column."""
    about = heading.about
    words = [w for w in (about.subject, about.test, about.sitting) if w]
    why = f"by its name: {', '.join(words)}"
    if heading.role:
        return heading.role, why, heading.known
    if score:
        return f"score:{score}", why, heading.known
    filled = sheet.column(index).filter(sheet.column(index) != "")
    figures = int(numbers(filled).is_not_null().sum()) > len(filled) / 2 or not len(filled)
    return "score:raw" if figures else "score:grade", why, heading.known


def _guess(kind: str, sheet: Sheet, index: int) -> tuple[str, str, bool]:
    words = re.sub(r" (out of \d+|in (%|marks|points))$", "", _words(sheet.headers[index]))
    own = _words(spoken().year_level)
    if "year_level" in PATTERNS[kind] and words == own and own != _words(PLAIN.year_level):
        return "year_level", "as the district calls it", True
    for role, pattern in PATTERNS[kind].items():
        if re.fullmatch(pattern, words) and _fits(kind, role, sheet, index):
            if role == "score:raw" and _below_nought(sheet, index):
                return "score:scaled", "by its name; marks are never below nought", True
            return role, "by its name", True
    if kind != "roster":
        return "ignore", "not known", False
    values = sheet.column(index)
    different = values.filter(values != "").n_unique()
    if different > min(MOST_OPTIONS, max(2, sheet.cells.height // 2)):
        return "ignore", f"{different} different values: too many for a characteristic", False
    if different == 0:
        return "ignore", "empty", True
    words = "one value" if different == 1 else f"{different} different values"
    return "characteristic", words, different <= 12


def _below_nought(sheet: Sheet, index: int) -> bool:
    """Whether so many figures are below nought that these are no slips."""
    figures = numbers(sheet.column(index)).drop_nulls()
    return int((figures < 0).sum()) > SLIPS * len(figures)


def _fits(kind: str, role: str, sheet: Sheet, index: int) -> bool:
    """Whether the content can be what the name says."""
    values = sheet.column(index).head(2000)
    filled = values.filter(values != "")
    if not len(filled):
        return role not in ("date", "birth_date")
    if role == "number":
        return int(filled.str.contains(r"\d").sum()) > len(filled) / 2
    if role in ("date", "birth_date"):
        return dates(filled).unread < len(filled) / 2
    if role in ("score:level", "score:grade"):
        return filled.n_unique() <= MOST_OPTIONS
    marks = role in ("question", "strand") and kind == "results"
    if role.startswith("score:") or marks:
        return int(numbers(filled).is_not_null().sum()) > len(filled) / 4
    return True
