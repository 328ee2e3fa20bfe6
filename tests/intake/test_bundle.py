"""The OneRoster bundle: out, back in, and what is refused or left behind."""

from __future__ import annotations

import csv
import io
import zipfile

import pytest
from tests.support import Place, new_place

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.intake.drafts.drafts import new_drafts
from bridge_chart.intake.reading.archive import tables_in
from bridge_chart.intake.reading.bundle import REQUIRED
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.output.bundle import KEYS, Meant, to_bundle
from bridge_chart.store.settings import Settings
from bridge_chart.terms.errors import InvalidQuestion, UnreadableFile

ROSTER = "No,First name,Surname,Born,School,Year,Class,Teacher,Course,Sex\n" + "".join(
    f"{n:03d},Pupil,Number {n},2013-0{1 + n % 9}-11,{'Tarn' if n < 7 else 'Netherby'},8,"
    f"8{'A' if n % 2 else 'B'},R. Vale,Maths,{'F' if n % 2 else 'M'}\n"
    for n in range(1, 11)
)
MARKS = (
    "No,Subject,Mark\n"
    + "".join(f"{n:03d},Maths,{4 * n}\n" for n in range(1, 10))
    + "010,Maths,ex\n"
)


def files(data: bytes) -> dict[str, list[dict[str, str]]]:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        return {
            name.removesuffix(".csv"): list(
                csv.DictReader(io.StringIO(archive.read(name).decode("utf-8")))
            )
            for name in archive.namelist()
        }


def packed(parts: dict[str, list[dict[str, str]]]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, rows in parts.items():
            text = io.StringIO()
            writer = csv.DictWriter(text, rows[0].keys() if rows else ["sourcedId"])
            writer.writeheader()
            writer.writerows(rows)
            archive.writestr(f"bundle/{name}.csv", text.getvalue())
    return out.getvalue()


@pytest.fixture
def tarn(place: Place) -> Place:
    place.bring("roster", ROSTER, academic_year="2025-26")
    place.bring("results", MARKS, name="Check.csv", sitting="May")
    return place


def test_every_file_has_its_required_fields(tarn: Place) -> None:
    made = to_bundle(tarn.snapshot)
    parts = files(made.data)
    assert set(REQUIRED) <= set(parts)
    for name, needed in REQUIRED.items():
        assert set(needed) <= set(KEYS[name])
        for row in parts[name]:
            blank = [key for key in needed if not row[key]]
            assert not blank, f"{name}: {blank}"
    told = {row["propertyName"]: row["value"] for row in parts["manifest"]}
    assert told["oneroster.version"] == "1.2"
    assert told["file.results"] == "bulk"
    assert "Sex, a characteristic" in made.left_behind


def test_every_reference_is_to_something(tarn: Place) -> None:
    parts = files(to_bundle(tarn.snapshot).data)
    ids = {name: {row["sourcedId"] for row in rows} for name, rows in parts.items()
           if name != "manifest"}  # fmt: skip
    assert all(len(ids[name]) == len(parts[name]) for name in ids)
    refers = {"enrollments": {"classSourcedId": "classes", "userSourcedId": "users",
                              "schoolSourcedId": "orgs"},
              "classes": {"courseSourcedId": "courses", "schoolSourcedId": "orgs"},
              "results": {"lineItemSourcedId": "lineItems", "studentSourcedId": "users"},
              "lineItems": {"classSourcedId": "classes"}}  # fmt: skip
    for name, fields in refers.items():
        for field, target in fields.items():
            assert {row[field] for row in parts[name]} <= ids[target], (name, field)


def test_it_comes_back_as_it_was(tarn: Place, cluster: Settings) -> None:
    data = to_bundle(tarn.snapshot).data
    other = new_place(cluster)
    for kind, said in (("roster", {"academic_year": "2025-26"}), ("results", {})):
        ((name, table, left),) = tables_in("oneroster.zip", data, kind)
        assert name == f"oneroster {kind}.csv"
        plan = other.bring(kind, table, name=name, left_behind=left, **said)
        assert plan.examination.rows_set_aside == 0
        assert "left_behind" in {f.key for f in plan.examination.findings}
    for place in (tarn, other):
        asked = {
            "what": [{"assessment": "Check", "subject": "Maths"}],
            "split": [{"field": "class"}],
        }
        answer = place.ask(asked)
        assert [(r.label, r.n, r.mean) for r in answer.body.rows] == [
            (r.label, r.n, r.mean) for r in tarn.ask(asked).body.rows
        ]
        assert {m.reason: m.n for m in answer.coverage[0].missing}["exempt"] == 1
    assert other.snapshot.birth_days.tolist() == tarn.snapshot.birth_days.tolist()
    assert {c.name: c.courses for c in other.snapshot.classes} == {
        "8A": ("Maths",),
        "8B": ("Maths",),
    }
    other.engine.dispose()


def test_a_bundle_opens_one_draft_of_the_kind(tarn: Place) -> None:
    data = to_bundle(tarn.snapshot).data
    made = new_drafts(tarn.engine, OPERATOR, "roster", "one.zip", data, IntakeSettings())
    assert [draft.name for draft in made] == ["one roster.csv"]
    assert made[0].settings.left_behind


def test_a_missing_file_or_field_is_named(tarn: Place) -> None:
    parts = files(to_bundle(tarn.snapshot).data)
    without = {name: rows for name, rows in parts.items() if name != "enrollments"}
    with pytest.raises(UnreadableFile, match=r"must have enrollments\.csv"):
        tables_in("one.zip", packed(without), "roster")
    lacking = [{k: v for k, v in row.items() if k != "familyName"} for row in parts["users"]]
    with pytest.raises(UnreadableFile, match=r"users\.csv must have the field familyName"):
        tables_in("one.zip", packed({**parts, "users": lacking}), "roster")
    with pytest.raises(UnreadableFile, match="a roster and results only"):
        tables_in("one.zip", packed(parts), "scale")


def test_what_points_nowhere_is_counted_and_deleted_rows_are_none(tarn: Place) -> None:
    parts = files(to_bundle(tarn.snapshot).data)
    parts["enrollments"][-1]["userSourcedId"] = "nobody"
    parts["results"][0]["status"] = "tobedeleted"
    parts["categories"] = [{"sourcedId": "1"}]
    ((_, _, left),) = tables_in("one.zip", packed(parts), "roster")
    assert "1 enrolment of a user or school that is not in the bundle" in left
    assert "categories.csv has no place here" in left
    ((_, table, _),) = tables_in("one.zip", packed(parts), "results")
    assert table.count(b"\r\n") == len(parts["results"])


def test_without_a_roster_there_is_no_bundle(place: Place) -> None:
    with pytest.raises(InvalidQuestion, match="no roster"):
        to_bundle(place.snapshot)


def test_sex_and_race_stand_in_the_standards_fields_where_it_is_said_which_they_are(
    place: Place,
) -> None:
    told = ("F,White", "boy,Black", "X,Hispanic", "?,Islander", ",")
    rows = [f"{n + 1},Ash,7,{told[n % 5]}" for n in range(30)]
    place.bring("roster", "\n".join(["Number,School,Year,Sex,Heritage", *rows]) + "\n",
                academic_year="2025-26")  # fmt: skip
    plain = files(to_bundle(place.snapshot).data)["demographics"]
    assert {row["sex"] for row in plain} == {""}
    made = to_bundle(place.snapshot, Meant(sex="Sex", race="Heritage"))
    found = {row["sourcedId"]: row for row in files(made.data)["demographics"]}
    assert [found[n]["sex"] for n in "12345"] == ["female", "male", "other", "unspecified", ""]
    assert (found["1"]["white"], found["1"]["asian"]) == ("true", "false")
    assert found["2"]["blackOrAfricanAmerican"] == "true"
    assert found["3"]["hispanicOrLatinoEthnicity"] == "true"
    assert found["5"]["white"] == ""
    assert [one for one in made.left_behind if "islander" in one]
    assert not [one for one in made.left_behind if one.startswith(("Sex", "Heritage"))]
    with pytest.raises(InvalidQuestion, match="no characteristic “Race”"):
        to_bundle(place.snapshot, Meant(race="Race"))
