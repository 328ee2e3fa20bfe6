"""The district as a OneRoster 1.2 CSV bundle: who is where today, and every result with a figure.

Steps, targets, marks by question and tables of reference have no place in it; they are named in
`left_behind`.
"""

from __future__ import annotations

import csv
import io
import zipfile
from dataclasses import dataclass, field

import numpy as np

from bridge_chart.store.codes import STATUSES
from bridge_chart.store.snapshot import UNKNOWN_DAY, MeasureKey, Roll, SchoolClass, Snapshot
from bridge_chart.terms.calendar import year_bounds
from bridge_chart.terms.errors import InvalidQuestion

Lines = list[list[str]]
HEADS = {
    "orgs": "sourcedId,status,dateLastModified,name,type,identifier,parentSourcedId",
    "academicSessions": "sourcedId,status,dateLastModified,title,type,startDate,endDate,"
    "parentSourcedId,schoolYear",
    "courses": "sourcedId,status,dateLastModified,schoolYearSourcedId,title,courseCode,grades,"
    "orgSourcedId,subjects,subjectCodes",
    "classes": "sourcedId,status,dateLastModified,title,grades,courseSourcedId,classCode,classType,"
    "location,schoolSourcedId,termSourcedIds,subjects,subjectCodes,periods",
    "users": "sourcedId,status,dateLastModified,enabledUser,username,userIds,givenName,familyName,"
    "middleName,identifier,email,sms,phone,agentSourcedIds,grades,password,userMasterIdentifier,"
    "resourceSourcedIds,preferredGivenName,preferredMiddleName,preferredFamilyName,"
    "primaryOrgSourcedId,pronouns",
    "roles": "sourcedId,status,dateLastModified,userSourcedId,roleType,role,beginDate,endDate,"
    "orgSourcedId,userProfileSourcedId",
    "enrollments": "sourcedId,status,dateLastModified,classSourcedId,schoolSourcedId,userSourcedId,"
    "role,primary,beginDate,endDate",
    "demographics": "sourcedId,status,dateLastModified,birthDate,sex,"
    "americanIndianOrAlaskaNative,asian,blackOrAfricanAmerican,"
    "nativeHawaiianOrOtherPacificIslander,white,demographicRaceTwoOrMoreRaces,"
    "hispanicOrLatinoEthnicity,countryOfBirthCode,stateOfBirthAbbreviation,cityOfBirth,"
    "publicSchoolResidenceStatus",
    "lineItems": "sourcedId,status,dateLastModified,title,description,assignDate,dueDate,"
    "classSourcedId,categorySourcedId,gradingPeriodSourcedId,resultValueMin,resultValueMax,"
    "scoreScaleSourcedId,academicSessionSourcedId,schoolSourcedId",
    "results": "sourcedId,status,dateLastModified,lineItemSourcedId,studentSourcedId,scoreStatus,"
    "score,textScore,classSourcedId,scoreScaleSourcedId,scoreDate,comment",
}
SEXES = {
    "female": ("female", "f", "girl", "woman", "w"), "male": ("male", "m", "boy", "man"),
    "other": ("other", "x", "non binary", "nonbinary", "diverse"),
}  # fmt: skip
"""The standard's words for a sex, and how rosters write them."""
RACES = {
    "americanIndianOrAlaskaNative": ("american indian or alaska native", "american indian",
                                     "alaska native"),
    "asian": ("asian",),
    "blackOrAfricanAmerican": ("black or african american", "black", "african american"),
    "nativeHawaiianOrOtherPacificIslander": ("native hawaiian or other pacific islander",
                                             "native hawaiian", "pacific islander"),
    "white": ("white",),
    "demographicRaceTwoOrMoreRaces": ("two or more races", "two or more", "mixed", "multiple"),
    "hispanicOrLatinoEthnicity": ("hispanic or latino", "hispanic", "latino", "latina"),
}  # fmt: skip
"""The standard's fields, and the values that go into them."""
KEYS = {name: heads.split(",") for name, heads in HEADS.items()}


@dataclass(frozen=True)
class Bundle:
    """The archive, how many lines each file has, and what has no place in it."""

    data: bytes
    lines: dict[str, int]
    left_behind: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class Meant:
    """Which characteristics say a student's sex and race, as the district says; None: none."""

    sex: str | None = None
    race: str | None = None


def to_bundle(snapshot: Snapshot, meant: Meant = Meant()) -> Bundle:
    """The bundle of a snapshot; InvalidQuestion without a roster, or where there is no such
    characteristic."""
    roll = snapshot.roll_at(snapshot.today) if snapshot.today else None
    if roll is None:
        raise InvalidQuestion("There is no roster to take out.", next_step="Bring one in first.")
    writer = _Writer(snapshot, roll, meant)
    writer.places()
    writer.people()
    writer.scores()
    return writer.bundle()


class _Writer:
    def __init__(self, snapshot: Snapshot, roll: Roll, meant: Meant) -> None:
        self.snapshot, self.roll = snapshot, roll
        self.sex = self._values(meant.sex)
        self.race = self._values(meant.race)
        self.carried = {name for name in (meant.sex, meant.race) if name}
        self.unplaced: set[str] = set()
        self.files: dict[str, Lines] = {name: [] for name in HEADS}
        self.year = f"year-{roll.academic_year}"
        first, last = year_bounds(roll.academic_year)
        self.first, self.last = str(first), str(last)

    def _add(self, name: str, /, **cells: object) -> None:
        self.files[name].append([str(cells.get(key, "")) for key in KEYS[name]])

    def _values(self, name: str | None) -> list[str]:
        """(students,) the value of a characteristic today, plain; empty where none is meant."""
        if name is None:
            return []
        known = {item.name: item for item in self.snapshot.characteristics}
        if name not in known:
            raise InvalidQuestion(
                f"There is no characteristic “{name}”.",
                next_step=f"There are: {', '.join(known)}.",
            )
        item = known[name]
        plain = [_plain(option.name) for option in item.options] + [""]
        codes = self.roll.characteristic(item.id, self.snapshot.students)
        return [plain[int(code)] for code in np.asarray(codes)]

    def _demographics(self, at: int) -> dict[str, str]:
        """Sex and race in the standard's fields; a value that has none is told of."""
        out: dict[str, str] = {}
        if self.sex and self.sex[at]:
            out["sex"] = next((k for k, v in SEXES.items() if self.sex[at] in v), "unspecified")
        if self.race and self.race[at]:
            fields = {key: self.race[at] in values for key, values in RACES.items()}
            out |= {key: str(held).lower() for key, held in fields.items()}
            if not any(fields.values()):
                self.unplaced.add(self.race[at])
        return out

    def places(self) -> None:
        """The district, its schools, the school year, courses and classes."""
        self._add("orgs", sourcedId="district", name="District", type="district")
        self._add("academicSessions", sourcedId=self.year, title=self.roll.academic_year,
                  type="schoolYear", startDate=self.first, endDate=self.last,
                  schoolYear=self.last[:4])  # fmt: skip
        for school in self.snapshot.schools:
            self._add("orgs", sourcedId=f"school-{school.id}", name=school.name, type="school",
                      parentSourcedId="district")  # fmt: skip
        courses = {c for item in self.snapshot.classes for c in item.courses}
        for course in sorted(courses | {"Class"}):
            self._add("courses", sourcedId=f"course-{course}", schoolYearSourcedId=self.year,
                      title=course, orgSourcedId="district")  # fmt: skip
        for item in self._classes():
            self._add("classes", sourcedId=f"class-{item.id}", title=item.name,
                      courseSourcedId=f"course-{(*item.courses, 'Class')[0]}",
                      classType="scheduled" if item.courses else "homeroom",
                      schoolSourcedId=f"school-{item.school_id}",
                      termSourcedIds=self.year)  # fmt: skip
            for place in item.teachers:
                self._add("enrollments", sourcedId=f"teaches-{item.id}-{place}",
                          classSourcedId=f"class-{item.id}", userSourcedId=f"staff-{place}",
                          schoolSourcedId=f"school-{item.school_id}", role="teacher",
                          primary="true")  # fmt: skip

    def _classes(self) -> list[SchoolClass]:
        year = self.roll.academic_year
        return [item for item in self.snapshot.classes if item.academic_year == year]

    def people(self) -> None:
        """Students on roll with their classes, and who teaches them."""
        snapshot, roll = self.snapshot, self.roll
        for place, name in enumerate(snapshot.staff):
            given, _, family = name.rpartition(" ")
            self._add("users", sourcedId=f"staff-{place}", enabledUser="true", username=name,
                      givenName=given, familyName=family)  # fmt: skip
        for at in np.flatnonzero(np.asarray(roll.school) >= 0).tolist():
            number, school = str(snapshot.numbers[at]), snapshot.schools[int(roll.school[at])].id
            level, day = int(roll.year_level[at]), int(snapshot.birth_days[at])
            org = f"school-{school}"
            self._add("users", sourcedId=number, enabledUser="true", username=number,
                      givenName=snapshot.given_names[at], familyName=snapshot.family_names[at],
                      identifier=number, grades=f"{level:02d}" if level >= 0 else "",
                      primaryOrgSourcedId=org)  # fmt: skip
            self._add("roles", sourcedId=f"role-{number}", userSourcedId=number,
                      roleType="primary", role="student", orgSourcedId=org)  # fmt: skip
            born = "" if day == UNKNOWN_DAY else str(np.datetime64(day, "D"))
            self._add("demographics", sourcedId=number, birthDate=born, **self._demographics(at))
        for at, place in np.asarray(roll.members).tolist():
            number, item = str(snapshot.numbers[at]), snapshot.classes[place]
            self._add("enrollments", sourcedId=f"in-{number}-{item.id}",
                      classSourcedId=f"class-{item.id}", schoolSourcedId=f"school-{item.school_id}",
                      userSourcedId=number, role="student", primary="false")  # fmt: skip

    def scores(self) -> None:
        """Results with a figure; who was absent or exempt has a status and no score."""
        roll_school = np.asarray(self.roll.school)
        for measure in self.snapshot.measures:
            if measure.role != "result" or measure.steps:
                continue
            self._item(measure)
            values = self.snapshot.values(measure)
            status = self.snapshot.status(measure)
            held = ~np.isnan(values) | (status == STATUSES.index("exempt"))
            for at in np.flatnonzero(held & (roll_school >= 0)).tolist():
                number, value = str(self.snapshot.numbers[at]), values[at]
                sat = value == value
                self._add("results", sourcedId=f"result-{measure.key}-{number}",
                          lineItemSourcedId=f"item-{measure.key}", studentSourcedId=number,
                          scoreStatus="fully graded" if sat else "exempt",
                          score=f"{value:.10g}" if sat else "",
                          scoreDate=str(measure.date))  # fmt: skip

    def _item(self, measure: MeasureKey) -> None:
        period = f"session-{measure.sitting.id}"
        self._add("academicSessions", sourcedId=period, title=measure.sitting.name,
                  type="gradingPeriod", startDate=measure.date, endDate=measure.date,
                  parentSourcedId=self.year, schoolYear=str(measure.date.year))  # fmt: skip
        subject = measure.subject.name if measure.subject else measure.assessment.name
        course = f"course-{subject}"
        if course not in {row[0] for row in self.files["courses"]}:
            self._add("courses", sourcedId=course, title=subject, orgSourcedId="district")
        tested = f"class-tested-{measure.key}"
        self._add("classes", sourcedId=tested, title=f"Tested in {measure.label}",
                  courseSourcedId=course, classType="scheduled", schoolSourcedId="district",
                  termSourcedIds=period)  # fmt: skip
        self._add("lineItems", sourcedId=f"item-{measure.key}", title=measure.assessment.name,
                  description=measure.score, assignDate=measure.date, dueDate=measure.date,
                  classSourcedId=tested, gradingPeriodSourcedId=period)  # fmt: skip

    def bundle(self) -> Bundle:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("manifest.csv", _text(["propertyName", "value"], self._manifest()))
            for name, lines in self.files.items():
                archive.writestr(f"{name}.csv", _text(KEYS[name], lines))
        snapshot = self.snapshot
        left = [f"{item.name}, a characteristic" for item in snapshot.characteristics
                if item.name not in self.carried]  # fmt: skip
        left += [
            f"“{value}”, which no field of the standard is for" for value in sorted(self.unplaced)
        ]
        left += [f"{m.label}: levels, grades, targets and predictions" for m in snapshot.measures
                 if m.steps or m.role != "result"]  # fmt: skip
        return Bundle(out.getvalue(), {k: len(v) for k, v in self.files.items()}, left)

    def _manifest(self) -> Lines:
        lines = [["manifest.version", "1.0"], ["oneroster.version", "1.2"]]
        every = (*HEADS, "categories", "classResources", "courseResources", "resources",
                 "userProfiles", "userResources", "scoreScales", "lineItemLearningObjectiveIds",
                 "lineItemScoreScales", "resultLearningObjectiveIds",
                 "resultScoreScales")  # fmt: skip
        lines += [[f"file.{name}", "bulk" if name in HEADS else "absent"] for name in every]
        return [*lines, ["source.systemName", "Bridge Chart"], ["source.systemCode", "bridge"]]


def _plain(value: str) -> str:
    return " ".join(value.casefold().replace("-", " ").split())


def _text(heads: list[str], lines: Lines) -> str:
    out = io.StringIO()
    csv.writer(out, lineterminator="\r\n").writerows([heads, *lines])
    return out.getvalue()
