"""What each column is: guessed by name and content, corrected by a person or a mapping file."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace

import polars as pl

from bridge_chart.intake.cells.chosen import holds_letters
from bridge_chart.intake.cells.values import CODE_MEANS, dates, numbers
from bridge_chart.intake.columns.column_names import (
    COMMON,
    PATTERNS,
    RESULTS,
    ROLES,
    ROSTER,
    TABLES,
    WIDE,
)
from bridge_chart.intake.columns.headings import Heading, Known, read_heading
from bridge_chart.intake.columns.patterns import Pattern
from bridge_chart.intake.columns.question_columns import questions_by_content
from bridge_chart.intake.columns.shapes import BESIDE
from bridge_chart.intake.columns.wide_tables import widened
from bridge_chart.intake.reading.sheet import KEPT, Sheet
from bridge_chart.intake.said.settings import About, IntakeSettings
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
SAID = "as you said"
NAMED = (
    "characteristic",
    "target",
    "strand",
    "tag",
    *(role for of in WIDE.values() for role in of),
)
"""Roles that may carry a name: “characteristic:Sex”, “percentile:10”."""
OWN_COLUMNS = {"roster": "characteristic", "questions": "tag"}
"""What a column of few values is, whatever it is called."""
REPEATABLE = (*NAMED, "ignore", "question", "option", "written")


def role_choices(kind: str) -> list[Choice]:
    """The roles that a column may have, for pickers and error texts."""
    return [Choice(key=key, label=_label(kind, key)) for key in ROLES[kind]]


@dataclass(frozen=True)
class Taken:
    """What a column is taken for, and why. `about`: what its results are about; `word`: what its
    name calls its kind of score, where a pattern says so."""

    role: str
    why: str
    confident: bool = True
    about: About | None = None
    word: str = ""


def understand(
    kind: str, sheet: Sheet, said: IntakeSettings, known: Known | None = None
) -> list[ColumnInfo]:
    """The columns with their roles: as somebody said (by header, or “#3” for the third), by their
    values, by a pattern, by their names.

    `known`: names in use, which a column's name may hold. A characteristic's role is
    "characteristic" (named by its header) or "characteristic:Name"; a target's alike.
    Errors: InvalidQuestion for a role, a header or a pattern that does not exist.
    """
    known = known or Known()
    told = {_index_of(sheet, header): value for header, value in said.about.items()}
    fixed = _fixed(kind, sheet, said.columns, told)
    found = {at: Taken(role, SAID, about=told.get(at)) for at, role in fixed.items()}
    for at, (role, why) in _by_content(kind, sheet, fixed, known).items():
        found.setdefault(at, Taken(role, why, about=told.get(at)))
    if kind == "results":
        for at, taken in _by_heads(sheet, said, known, found).items():
            about = told.get(at) or taken.about
            found.setdefault(at, replace(taken, about=about))
    used = {(role, _key(told.get(at))) for at, role in fixed.items() if role not in REPEATABLE}
    columns: list[ColumnInfo] = []
    for index, header in enumerate(sheet.headers):
        taken = found.get(index) or replace(_guess(kind, sheet, index, said), about=told.get(index))
        if index not in fixed:
            key = (taken.role, _key(taken.about))
            if key in used and taken.role not in REPEATABLE:
                why = f"another column is the {_label(kind, taken.role)}"
                taken = replace(taken, role="ignore", why=why, confident=True)
            used.add((taken.role, key[1]))
        columns.append(_info(kind, sheet, index, header, taken))
    return widened(kind, columns)


def _info(kind: str, sheet: Sheet, index: int, header: str, taken: Taken) -> ColumnInfo:
    values = sheet.column(index)
    of_results = taken.role.startswith(RESULT_ROLES) or taken.role in BESIDE
    about = taken.about if of_results else None
    return ColumnInfo(
        index=index,
        header=header,
        role=_named(kind, taken.role, header),
        why=taken.why,
        confident=taken.confident,
        examples=values.filter(values != "").unique(maintain_order=True).head(4).to_list(),
        about=about.model_dump(mode="json", exclude_defaults=True) if about else {},
        word=taken.word,
    )


def _by_heads(
    sheet: Sheet, said: IntakeSettings, known: Known, found: Mapping[int, Taken]
) -> dict[int, Taken]:
    """Columns of results whose names say of what they are: by a pattern, beside results, wide."""
    patterned = _patterned(sheet, said, found)
    said_at = {at for at, taken in found.items() if taken.why == SAID}
    beside = {
        at: Taken(role, f"by its name: {heading.about.sitting or heading.about.test}",
                  about=heading.about)
        for at, (role, heading) in _beside(sheet, {*said_at, *patterned}, known).items()
    }  # fmt: skip
    wide = {
        at: replace(_of_heading(heading, sheet, at, said.score), about=heading.about)
        for at, heading in _wide(sheet, {*said_at, *patterned, *beside}, known).items()
    }
    return {**wide, **beside, **patterned}


def _patterned(sheet: Sheet, said: IntakeSettings, found: Mapping[int, Taken]) -> dict[int, Taken]:
    """Columns whose names are built as somebody said."""
    if not said.pattern:
        return {}
    read = Pattern(said.pattern, said.kinds).read(sheet.headers, said.date_order)
    out: dict[int, Taken] = {}
    for at, told in read.items():
        if at in found:
            continue
        if not told.role:
            out[at] = Taken("ignore", f"“{told.word}” is no kind of score that is known", False,
                            told.about, told.word)  # fmt: skip
        elif told.role == "score":
            heading = Heading("", told.about, True, "")
            shown = _of_heading(heading, sheet, at, said.score)
            out[at] = replace(shown, why="by the pattern", about=told.about)
        else:
            out[at] = Taken(told.role, "by the pattern", True, told.about, told.word)
    if not out:
        raise InvalidQuestion(
            f"No column of {sheet.name} is called like “{said.pattern}”.",
            next_step=f"Its columns are: {', '.join(sheet.headers[:12])}.",
        )
    return out


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
    return named if named in NAMED else role


def _named(kind: str, role: str, header: str) -> str:
    """Characteristics and strands are called as their columns, unless somebody said how."""
    if kind in TABLES and role != "tag":
        return role
    called = {"characteristic": header, "strand": strand_of(header), "tag": header}.get(role)
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
    one kind differ in nothing else, or are of one subject and differ in their kinds.
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
    of = [h.about.subject for h in named.values()]
    twice = {i: h for i, h in named.items()
             if kinds.count(h.role) > 1 or (h.rest and of.count(h.about.subject) > 1)}  # fmt: skip
    out = {**sure, **twice}
    told = {h.about.subject for h in out.values()}
    out |= {i: h for i, h in named.items() if h.about.subject in told}
    bare = {i: h for i, h in new.items() if not h.role}
    out |= {i: h for i, h in bare.items() if h.about.subject in told}
    plainly = any(re.fullmatch(RESULTS[r], _words(h)) for h in sheet.headers for r in PLAIN_SCORES)
    return {**out, **bare} if len(bare) > 1 and not out and not plainly else out


def _beside(sheet: Sheet, fixed: Collection[int], known: Known) -> dict[int, tuple[str, Heading]]:
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
    return {**questions_by_content(sheet), **out} if kind == "results" else out


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
    """Whether cells can be results: figures, or few short words; codes of absence aside."""
    plain = filled.filter(~filled.str.to_lowercase().is_in(list(CODE_MEANS)))
    if int(numbers(plain).is_not_null().sum()) > len(plain) / 2:
        return True
    short = int((filled.str.len_chars() <= 3).sum())
    return short > 0.9 * len(filled) and filled.n_unique() <= MOST_OPTIONS // 3


def _of_heading(heading: Heading, sheet: Sheet, index: int, score: str | None) -> Taken:
    """Role, reason and confidence of a wide sheet's column."""
    about = heading.about
    words = [w for w in (about.subject, about.test, about.sitting) if w]
    why = f"by its name: {', '.join(words)}"
    if heading.role:
        return Taken(heading.role, why, heading.known)
    if score:
        return Taken(f"score:{score}", why, heading.known)
    filled = sheet.column(index).filter(sheet.column(index) != "")
    figures = int(numbers(filled).is_not_null().sum()) > len(filled) / 2 or not len(filled)
    return Taken("score:raw" if figures else "score:grade", why, heading.known)


def _guess(kind: str, sheet: Sheet, index: int, said: IntakeSettings) -> Taken:
    """By its name, else (in a roster, and in a table of questions) by how many values it has."""
    words = re.sub(r" (out of \d+|in (%|marks|points))$", "", _words(sheet.headers[index]))
    own = _words(spoken().year_level)
    if "year_level" in PATTERNS[kind] and words == own and own != _words(PLAIN.year_level):
        return Taken("year_level", "as the district calls it")
    for role, pattern in PATTERNS[kind].items():
        if re.fullmatch(pattern, words) and _fits(kind, role, sheet, index):
            if role == "score:raw" and said.score:
                return Taken(f"score:{said.score}", "a score, and you said which")
            if role == "score:raw" and _below_nought(sheet, index):
                return Taken("score:scaled", "by its name; marks are never below nought")
            return Taken(role, "by its name")
    if kind not in OWN_COLUMNS:
        return Taken("ignore", "not known", False)
    role, values = OWN_COLUMNS[kind], sheet.column(index)
    different = values.filter(values != "").n_unique()
    if different > min(MOST_OPTIONS, max(2, sheet.cells.height // 2)):
        why = f"{different} different values: too many for a {_label(kind, role)}"
        return Taken("ignore", why, False)
    if different == 0:
        return Taken("ignore", "empty")
    words = "one value" if different == 1 else f"{different} different values"
    return Taken(role, words, different <= 12)


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
    if kind == "results" and role in ("option", "written"):
        in_rows = any(re.fullmatch(RESULTS["item"], _words(header)) for header in sheet.headers)
        return in_rows or bool(re.search(r"\d", sheet.headers[index]))
    if kind == "results" and role == "question" and holds_letters(filled):
        return True
    marks = role in ("question", "strand") and kind == "results"
    if role.startswith("score:") or marks:
        return int(numbers(filled).is_not_null().sum()) > len(filled) / 4
    return True
