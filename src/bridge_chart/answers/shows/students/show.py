"""Students: who are behind it?"""

from __future__ import annotations

from bridge_chart.answers.shows.show import Sheet, Show
from bridge_chart.answers.shows.students.answer import students_shown
from bridge_chart.answers.shows.students.body import StudentsBody
from bridge_chart.answers.shows.students.lines import student_foot, student_lines, student_shades

SHOW = Show(
    name="students", label="The list of students", body=StudentsBody, answer=students_shown,
    lines=student_lines, takes=frozenset({"split", "sort", "page", "focus", "columns"}),
    shares=True, most=1, one_only="Students are listed for one measure at a time.",
    lists_students=True, sheet=Sheet(beside=False, shades=student_shades, foot=student_foot),
)  # fmt: skip
