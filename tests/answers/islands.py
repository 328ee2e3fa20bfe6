"""A small invented district of which every figure is known: forty students of Year 8 in two
schools, two sittings of a quiz that rose by ten for everybody but one, and a paper with strands."""

from __future__ import annotations

from tests.support import Place

NAMES = {3: ("Zoë", "O'Ferran-Ågren"), 5: ("Bo", "Marrable"), 7: ("Þóra", "Bjørk")}
FELL, ABSENT = 5, 7
"""Who fell behind at the second sitting, and who was absent from it."""
STRANDS = ("Number", "Shape")


def numbered(n: int) -> str:
    return f"{n:03d}"


def fill(place: Place) -> Place:
    people = [(n, *NAMES.get(n, (f"Given{n}", "Family"))) for n in range(40)]
    head = "Number,Forename,Surname,School,Year,Class,Teacher,Meals,Sex"
    rows = [
        f"{numbered(n)},{given},{family},{('Ash', 'Elm')[n // 20]},8,8{'AB'[n // 10 % 2]},"
        f"{('Ms Ash', 'Mr Elm')[n // 20]},{('yes', 'no')[n % 2]},{('F', 'M')[n % 3 == 0]}"
        for n, given, family in people
    ]
    place.bring("roster", "\n".join([head, *rows]) + "\n", academic_year="2025-26")
    old = [row.replace(",8,8", ",7,7") for row in rows]
    place.bring("roster", "\n".join([head, *old]) + "\n", academic_year="2024-25")
    steps = ["Low,0,no", "Mid,70,yes", "High,90,yes"]
    scale = ["Test,Score,Step,From,Passes", *(f"Quiz,level,{step}" for step in steps)]
    place.bring("scale", "\n".join(scale) + "\n")
    said = {"test": "Quiz", "subject": "Maths"}
    first = [f"{numbered(n)},{50 + n}" for n in range(40)]
    place.bring("results", "\n".join(["Number,Scaled score", *first]) + "\n", name="one.csv",
                sitting="spring 2025", date="2025-05-01", **said)  # fmt: skip
    # A little up and down, so that the line is not without error.
    second = [60 + n + (2 if n % 2 else -2) for n in range(40)]
    second[FELL] = 40
    cells = [("absent" if n == ABSENT else str(value)) for n, value in enumerate(second)]
    lines = [f"{numbered(n)},{cell},{_level(n, second)}" for n, cell in enumerate(cells)]
    place.bring("results", "\n".join(["Number,Scaled score,Level", *lines]) + "\n",
                name="two.csv", sitting="spring 2026", date="2026-05-01", **said)  # fmt: skip
    return place


def _level(n: int, scores: list[int]) -> str:
    if n == ABSENT:
        return ""
    return "High" if scores[n] >= 90 else "Mid" if scores[n] >= 70 else "Low"


def add_paper(place: Place) -> None:
    """Four questions of one mark, two of each strand: student n wins the first of Number always,
    the second where n is even, both of Shape but for student 5, who wins none there."""
    head = "Number,Q1,Q2,Q3,Q4"
    rows = [
        f"{numbered(n)},1,{1 - n % 2},{int(n != FELL)},{int(n != FELL)}" for n in range(40)
    ]  # fmt: skip
    place.bring("results", "\n".join([head, *rows]) + "\n", name="paper.csv", test="Paper",
                subject="Maths", sitting="winter", date="2026-02-01")  # fmt: skip
    table = ["Test,Question,Maximum,Strand"] + [
        f"Paper,Q{n + 1},1,{STRANDS[n // 2]}" for n in range(4)
    ]
    place.bring("questions", "\n".join(table) + "\n", name="table.csv")
    steps = "Strand,Level,Text,Link\nShape,,Angles on a line,unit 8.4\nNumber,,Place value,unit 1\n"
    place.bring("next_steps", steps, name="steps.csv")
