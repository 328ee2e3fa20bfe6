"""A OneRoster 1.2 CSV bundle as our own tables: a roster, or results. What has no place here is
listed, and nothing is guessed across files."""

from __future__ import annotations

import csv
import io
import zipfile
from collections.abc import Iterable
from dataclasses import dataclass, field

from bridge_chart.intake.reading.sheet import KEPT
from bridge_chart.terms.errors import UnreadableFile
from bridge_chart.terms.wording import count

Row = dict[str, str]
REQUIRED = {
    "orgs": ("sourcedId", "name", "type"),
    "academicSessions": ("sourcedId", "title", "type", "startDate", "endDate", "schoolYear"),
    "courses": ("sourcedId", "title", "orgSourcedId"),
    "classes": ("sourcedId", "title", "courseSourcedId", "classType", "schoolSourcedId"),
    "users": ("sourcedId", "enabledUser", "givenName", "familyName"),
    "roles": ("sourcedId", "userSourcedId", "roleType", "role", "orgSourcedId"),
    "enrollments": ("sourcedId", "classSourcedId", "schoolSourcedId", "userSourcedId", "role"),
    "demographics": ("sourcedId",),
    "lineItems": ("sourcedId", "title", "assignDate", "dueDate", "classSourcedId"),
    "results": ("sourcedId", "lineItemSourcedId", "studentSourcedId", "scoreStatus", "scoreDate"),
}
"""The fields that the specification requires and that are read here."""
NEEDED = {"roster": ("orgs", "users", "enrollments", "classes"),
          "results": ("users", "lineItems", "results")}  # fmt: skip
NOT_SAT = {"exempt": "exempt", "not submitted": "not sat", "late": "", "submitted": ""}


@dataclass(frozen=True)
class Made:
    """A table made of a bundle: CSV that the intake reads, and what was left behind."""

    data: bytes
    left_behind: list[str] = field(default_factory=list)


def is_bundle(data: bytes) -> bool:
    """Whether an archive is such a bundle: it has a manifest that says so."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            names = {name.rsplit("/", 1)[-1] for name in archive.namelist()}
    except zipfile.BadZipFile:
        return False
    return "manifest.csv" in names and bool(names & {"users.csv", "orgs.csv", "results.csv"})


def table_of(name: str, data: bytes, kind: str) -> Made:
    """The roster or the results of a bundle; UnreadableFile where a file or field is missing."""
    bundle = _Bundle(name, data)
    if kind not in NEEDED:
        raise UnreadableFile(
            f"{name} is a OneRoster bundle, which has a roster and results only.", kept=KEPT,
            next_step="Bring it in as a roster, then as results.",
        )  # fmt: skip
    missing = [part for part in NEEDED[kind] if part not in bundle.files]
    if missing:
        raise UnreadableFile(
            f"{name} must have {missing[0]}.csv to give {kind}. It has "
            f"{', '.join(sorted(bundle.files)) or 'none of the files'} instead.", kept=KEPT,
        )  # fmt: skip
    return bundle.roster() if kind == "roster" else bundle.results()


class _Bundle:
    def __init__(self, name: str, data: bytes) -> None:
        self.name = name
        self.files: dict[str, list[Row]] = {}
        self.unread: list[str] = []
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            for path in archive.namelist():
                stem = path.rsplit("/", 1)[-1].removesuffix(".csv")
                if stem in REQUIRED:
                    self.files[stem] = self._read(stem, archive.read(path))
                elif path.endswith(".csv") and stem != "manifest":
                    self.unread.append(f"{stem}.csv")

    def _read(self, part: str, data: bytes) -> list[Row]:
        try:
            text = data.decode("utf-8-sig")
        except UnicodeDecodeError as error:
            raise UnreadableFile(
                f"{self.name}: {part}.csv is not in UTF-8, as the specification requires.",
                kept=KEPT,
            ) from error
        reader = csv.DictReader(io.StringIO(text))
        lacking = [f for f in REQUIRED[part] if f not in (reader.fieldnames or [])]
        if lacking:
            raise UnreadableFile(
                f"{self.name}: {part}.csv must have the field {lacking[0]}.", kept=KEPT,
                next_step="Export the bundle again with all required fields.",
            )  # fmt: skip
        rows = [{key: (value or "").strip() for key, value in row.items() if key} for row in reader]
        return [row for row in rows if row.get("status", "active") != "tobedeleted"]

    def _by_id(self, part: str) -> dict[str, Row]:
        return {row["sourcedId"]: row for row in self.files.get(part, [])}

    def _students(self) -> dict[str, Row]:
        """Users who are students somewhere: by their roles, else by their enrolments."""
        told = [*self.files.get("roles", []), *self.files.get("enrollments", [])]
        mine = {row["userSourcedId"] for row in told if row["role"] == "student"}
        return {key: row for key, row in self._by_id("users").items() if key in mine}

    def _left_behind(self, read: Iterable[str]) -> list[str]:
        told = [f"{name} has no place here" for name in sorted(self.unread)]
        told += [f"{part}.csv is not read for this" for part in sorted(set(self.files) - set(read))]
        return told

    def roster(self) -> Made:
        """A row per student and class; students without a class have one with their school."""
        students, orgs = self._students(), self._by_id("orgs")
        classes, courses = self._by_id("classes"), self._by_id("courses")
        demographics, users = self._by_id("demographics"), self._by_id("users")
        taught: dict[str, str] = {}
        for row in self.files["enrollments"]:
            if row["role"] == "teacher" and row["userSourcedId"] in users:
                person = users[row["userSourcedId"]]
                taught.setdefault(row["classSourcedId"], _name(person))
        told = _told(demographics.values())
        heads = ["Student number", "Given name", "Family name", "Birth date", "School",
                 "Year level", "Class", "Teacher", "Course", *told]  # fmt: skip
        lines, placed, lost = [], set(), 0
        for row in self.files["enrollments"]:
            student, school = students.get(row["userSourcedId"]), orgs.get(row["schoolSourcedId"])
            if row["role"] != "student":
                continue
            if student is None or school is None:
                lost += 1
                continue
            own = classes.get(row["classSourcedId"], {})
            course = courses.get(own.get("courseSourcedId", ""), {})
            placed.add(student["sourcedId"])
            lines.append([
                *_person(student, demographics), school["name"], _grade(student),
                own.get("title", ""), taught.get(row["classSourcedId"], ""),
                course.get("title", ""), *_demographics(student, demographics, told),
            ])  # fmt: skip
        for key, student in students.items():
            school = orgs.get(student.get("primaryOrgSourcedId", ""))
            if key not in placed and school is not None:
                lines.append([
                    *_person(student, demographics), school["name"], _grade(student), "", "", "",
                    *_demographics(student, demographics, told),
                ])  # fmt: skip
        left = self._left_behind(
            ("orgs", "users", "roles", "enrollments", "classes", "courses", "demographics",
             "academicSessions")
        )  # fmt: skip
        if lost:
            left.append(f"{count(lost, 'enrolment')} of a user or school that is not in the bundle")
        return Made(_csv(heads, lines), left)

    def results(self) -> Made:
        """A row per result; the test is the line item's title, the subject its class's course."""
        users, items = self._by_id("users"), self._by_id("lineItems")
        classes, courses = self._by_id("classes"), self._by_id("courses")
        sessions = self._by_id("academicSessions")
        lines, lost, texts = [], 0, 0
        for row in self.files["results"]:
            student, item = users.get(row["studentSourcedId"]), items.get(row["lineItemSourcedId"])
            if student is None or item is None:
                lost += 1
                continue
            texts += not row.get("score") and bool(row.get("textScore"))
            own = classes.get(item["classSourcedId"], {})
            course = courses.get(own.get("courseSourcedId", ""), {})
            period = item.get("gradingPeriodSourcedId") or item.get("academicSessionSourcedId", "")
            status = NOT_SAT.get(row["scoreStatus"], "")
            lines.append([
                _number(student), item["title"], own.get("subjects") or course.get("title", ""),
                sessions.get(period, {}).get("title", ""), row["scoreDate"][:10],
                row.get("score", ""), status,
            ])  # fmt: skip
        heads = ["Student number", "Test", "Subject", "Sitting", "Test date", "Score", "Status"]
        left = self._left_behind(
            ("users", "lineItems", "results", "classes", "courses", "academicSessions")
        )
        if lost:
            left.append(f"{count(lost, 'result')} of a user or line item that is not in the bundle")
        if texts:
            left.append(f"{count(texts, 'result')} with a text score only")
        return Made(_csv(heads, lines), left)


def _number(person: Row) -> str:
    """The number that people use, else the bundle's own id."""
    return person.get("identifier") or person["sourcedId"]


def _name(person: Row) -> str:
    return f"{person.get('preferredGivenName') or person['givenName']} {person['familyName']}"


def _person(person: Row, demographics: dict[str, Row]) -> list[str]:
    born = demographics.get(person["sourcedId"], {}).get("birthDate", "")
    return [_number(person), person["givenName"], person["familyName"], born]


def _grade(person: Row) -> str:
    return person.get("grades", "").split(",")[0]


def _told(rows: Iterable[Row]) -> list[str]:
    """Demographics that somebody has: a characteristic each."""
    held = {key for row in rows for key, value in row.items() if value}
    apart = {"sourcedId", "status", "dateLastModified", "birthDate"}
    return sorted(held - apart)


def _demographics(person: Row, demographics: dict[str, Row], told: list[str]) -> list[str]:
    own = demographics.get(person["sourcedId"], {})
    return [own.get(key, "") for key in told]


def _csv(heads: list[str], lines: list[list[str]]) -> bytes:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerows([heads, *lines])
    return out.getvalue().encode()
