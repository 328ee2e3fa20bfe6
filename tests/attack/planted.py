"""A district with secrets: every score of it is a number of its own, and every name is told apart.

Alder's lead knows Alder, and a teacher of Alder the class A5. Whatever else is here nobody may
tell them: a score, a school's mean, who speaks the rare language, what became of who left.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from tests.support import Place

SCHOOLS = ("Alder", "Birch", "Cedar", "Dune", "Elm")
LEVELS = (5, 6)
EACH = 16
RARE = "Quillan"
NOTE = "the board must not hear of this yet"
TESTS = (("autumn", "2025-10-06"), ("spring", "2026-05-11"))
LEAVER_TO = "Birch"


@dataclass
class Student:
    """One child: where, and what they scored in autumn and spring."""

    number: str
    family: str
    school: str
    level: int
    sex: str
    language: str
    scores: list[float]
    now: str = ""


@dataclass
class Planted:
    """The place, and what is true in it."""

    place: Place
    students: list[Student]
    role: str
    corrected: dict[str, float] = field(default_factory=dict)

    def mine(self, s: Student) -> bool:
        """Whether the attacker knows a student anyway."""
        if self.role == "viewer":
            return False
        return s.school == "Alder" and (self.role == "school_lead" or s.level == LEVELS[0])

    @property
    def foreign(self) -> list[Student]:
        return [s for s in self.students if not self.mine(s)]

    @property
    def elsewhere(self) -> list[tuple[str, int]]:
        """Schools and year levels of which the attacker knows nobody."""
        return sorted({(s.school, s.level) for s in self.foreign})

    def secrets(self) -> dict[str, float]:
        """Every number that the attacker may not learn."""
        out: dict[str, float] = {}
        for s in self.foreign:
            for (name, _), score in zip(TESTS, s.scores, strict=True):
                out[f"{s.number} {name}"] = score
        leaver = next(s for s in self.students if s.now == LEAVER_TO)
        out["the leaver's spring"] = leaver.scores[1]
        for school in sorted({school for school, _ in self.elsewhere}):
            for n, (name, _) in enumerate(TESTS):
                for level in (None, *LEVELS):
                    held = [s.scores[n] for s in self.foreign
                            if s.school == school and level in (None, s.level)]  # fmt: skip
                    if held:
                        out[f"mean of {school} {name} {level}"] = float(np.mean(held))
        out |= {f"corrected {k}": v for k, v in self.corrected.items()}
        return out

    def names(self) -> list[str]:
        """Every name that the attacker may not read."""
        teachers = [f"Teacher of {s} {n}" for s, n in self.elsewhere]
        numbers = [s.number for s in self.foreign] + [s.family for s in self.foreign]
        classes = [f"{s[0]}{n}" for s, n in self.elsewhere]
        return [*SCHOOLS[1:], *teachers, *numbers, *classes, NOTE]


def planted(place: Place, role: str) -> Planted:
    """Bring the district in, release it, and keep what makes it dangerous: a roster that put a
    school in the wrong hands and was undone, a correction of one score, a second release."""
    students = _students()
    place.bring("roster", _roster(students), "autumn.csv", academic_year="2025-26",
                as_of="2025-09-01")  # fmt: skip
    leaver = students[0]
    leaver.now = LEAVER_TO
    for n, (name, date) in enumerate(TESTS):
        lines = [f"{s.number},Quiz,{s.scores[n]:.9f},{_level(s.scores[n])}" for s in students]
        if n:
            place.bring("roster", _roster(students), "spring.csv", academic_year="2025-26",
                        as_of="2026-04-01")  # fmt: skip
        text = "\n".join(["Student number,Test,Scaled score,Level", *lines])
        place.bring("results", text, f"{name}.csv", sitting=name, date=date)
    return Planted(place, students, role)


def _students() -> list[Student]:
    rng = np.random.default_rng(7)
    out = []
    for level in LEVELS:
        for place_, school in enumerate(SCHOOLS):
            for _ in range(EACH):
                at = len(out)
                start = 300 + 6 * place_ + 12 * level + 20 * rng.standard_normal()
                later = start + 8 + 12 * rng.standard_normal()
                # The decimals tell every score, and every sum of scores, from any other.
                scores = [round(float(x), 9) for x in (start, later)]
                language = "English" if at % 3 else "Island"
                out.append(Student(f"{7_000_000 + at * 37}", f"Fam{at:03d}xq", school, level,
                                   "FM"[at % 2], language, scores))  # fmt: skip
    next(s for s in out if s.school == "Cedar").language = RARE
    return out


def _level(score: float) -> str:
    return "Secure" if score >= 370 else "Building"


def _roster(students: list[Student]) -> str:
    lines = ["Student number,Given name,Family name,School,Year level,Class,Teacher,Sex,Language"]
    for s in students:
        school = s.now or s.school
        lines.append(
            f"{s.number},Child,{s.family},{school},{s.level},{school[0]}{s.level},"
            f"Teacher of {school} {s.level},{s.sex},{s.language}"
        )
    return "\n".join(lines) + "\n"


def wrong_hands(planted: Planted) -> None:
    """A roster that says Birch is Alder, kept and undone."""
    place = planted.place
    moved = [
        Student(s.number, s.family, "Alder" if s.school == "Birch" else s.school, s.level, s.sex,
                s.language, s.scores, s.now)
        for s in planted.students
    ]  # fmt: skip
    place.bring("roster", _roster(moved), "wrong.csv", academic_year="2025-26", as_of="2026-05-20")


def correct(planted: Planted, at: int, to: float) -> None:
    """One score of a student elsewhere is corrected."""
    student = planted.foreign[at]
    line = f"{student.number},Quiz,{to:.9f},{_level(to)}"
    text = f"Student number,Test,Scaled score,Level\n{line}\n"
    planted.place.bring("results", text, f"correction-{at}.csv", sitting="spring",
                        date=TESTS[1][1])  # fmt: skip
    planted.corrected[student.number] = to
