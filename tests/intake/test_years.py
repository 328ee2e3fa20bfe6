"""A roster that holds several school years is one roster for each of them."""

from __future__ import annotations

import io
from pathlib import Path

from tests.cli.warm import command
from tests.support import Place, signed_in

TEXT = (
    "School year,Number,School,Year,Class\n"
    "2024/2025,1,Ash,6,6A\n2024/2025,2,Ash,6,6A\n"
    "SY 2025-26,1,Ash,7,7A\n2025–26,2,Birch,7,7B\n2025/26,3,Ash,7,7A\n"
    "last year,4,Ash,7,7A\n"
)


def test_each_year_waits_as_a_file_of_its_own(place: Place) -> None:
    place.account("ailsa", "data_lead")
    with signed_in(place) as client:
        form = {"kind": "roster", "file": (io.BytesIO(TEXT.encode()), "all.csv")}
        made = client.post("/api/drafts", data=form).get_json()
        assert made["name"] == "all.csv 2024-25"
        assert made["came_with"] == ["all.csv 2025-26"]
        waiting = client.get("/api/drafts").get_json()["drafts"]
        told = {}
        for draft in waiting:
            shown = client.get(f"/api/drafts/{draft['id']}").get_json()["examination"]
            found = {f["key"]: (f["n"], f["rows"]) for f in shown["findings"]}
            told[shown["title"]] = (shown["rows_kept"], found)
        assert told["Roster 2024-25"][0] == 2
        assert told["Roster 2025-26"][0] == 3
        assert told["Roster 2025-26"][1]["other_years"] == (2, [])
        assert told["Roster 2025-26"][1]["unread_school_year"] == (1, [7])


def test_the_command_line_keeps_a_year_each_and_says_which(place: Place) -> None:
    path = Path(place.settings.home) / "all.csv"
    path.write_text(TEXT.replace("last year,4,Ash,7,7A\n", ""), encoding="utf-8")
    done = command(place.settings.home, "import", "roster", str(path))
    assert done.returncode == 0, done.stderr
    assert "Roster 2024-25: 2 of 2 rows kept" in done.stdout
    assert "Roster 2025-26: 3 of 3 rows kept" in done.stdout
    rolls = {r.academic_year: int((r.school >= 0).sum()) for r in place.snapshot.rolls}
    assert rolls == {"2024-25": 2, "2025-26": 3}


def test_a_year_that_is_said_takes_its_own_rows_alone(place: Place) -> None:
    plan = place.bring("roster", TEXT, academic_year="2025-26")
    assert plan.examination.rows_kept == 3
    assert plan.aside == {3: "row whose school year cannot be read"}
    assert place.scalar("SELECT row FROM set_aside") == 7


def test_one_year_in_the_column_is_the_rosters(place: Place) -> None:
    plan = place.bring("roster", "School year,Number,School,Year\n2023/24,1,Ash,7\n")
    used = {d.key: (d.value, d.why) for d in plan.examination.defaults}
    assert used["academic_year"] == ("2023-24", "as its column says")
