"""Role × endpoint × own, other, gone: what is somebody else's reads as what does not exist."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from flask.testing import FlaskClient
from tests.support import PASSWORD, Place, forget_place, new_place, serving

from bridge_chart.store.settings import Settings

QUIZ = {"what": [{"assessment": "Quiz"}]}


@pytest.fixture(scope="module")
def place(cluster: Settings) -> Iterator[Place]:
    made = new_place(cluster)
    people = "".join(f"{n},{'AB'[n % 2]},8,8{'AB'[n % 2]}\n" for n in range(20))
    made.bring("roster", f"Number,School,Year level,Class\n{people}", academic_year="2025-26")
    lines = "".join(f"{n},Quiz,{n}\n" for n in range(20))
    made.bring("results", f"Number,Test,Score\n{lines}")
    for login, role, schools in (("ada", "data_lead", ()), ("bob", "data_lead", ()),
                                 ("cal", "school_lead", ("A",))):  # fmt: skip
        made.account(login, role, *schools)
    yield made
    forget_place(made)


@pytest.fixture(scope="module")
def people(place: Place) -> Iterator[dict[str, FlaskClient]]:
    with serving(place) as app:
        out = {}
        for login in ("ada", "bob", "cal"):
            out[login] = app.test_client()
            out[login].post("/api/session", json={"login": login, "password": PASSWORD})
        yield out


def made_group(client: FlaskClient) -> Any:
    body = {"name": "mine", "kind": "rule", "question": QUIZ}
    return client.post("/api/groups", json=body).get_json()["id"]


def made_question(client: FlaskClient) -> Any:
    return client.post("/api/questions", json={"name": "mine", "question": QUIZ}).get_json()["id"]


def made_note(client: FlaskClient) -> Any:
    return client.post("/api/notes", json={"text": "mine", "question": QUIZ}).get_json()["id"]


def made_draft(client: FlaskClient) -> Any:
    data = {"kind": "results", "file": (io.BytesIO(b"Number,Test,Score\n1,New,5\n"), "n.csv")}
    return client.post("/api/drafts", data=data).get_json()["id"]


Make = Callable[[FlaskClient], Any]
GONE = {"draft": "nothing"}
# What is made, who may, and what each thing may be asked: method, path, body, status to its owner.
THINGS: list[tuple[str, Make, tuple[str, ...], list[tuple[str, str, Any, int]]]] = [
    ("group", made_group, ("ada", "cal"), [("DELETE", "/api/groups/{}", None, 200)]),
    ("question", made_question, ("ada", "cal"), [("DELETE", "/api/questions/{}", None, 200)]),
    ("note", made_note, ("ada", "cal"), [("DELETE", "/api/notes/{}", None, 200)]),
    (
        "draft",
        made_draft,
        ("ada",),
        [
            ("GET", "/api/drafts/{}", None, 200),
            ("PUT", "/api/drafts/{}/settings", {"test": "Other"}, 200),
            ("POST", "/api/drafts/{}/same", None, 200),
            ("GET", "/api/drafts/{}/rows?finding=none", None, 404),
            ("POST", "/api/drafts/{}/keep", {"token": "other"}, 409),
            ("DELETE", "/api/drafts/{}", None, 200),
        ],
    ),
]


@pytest.mark.parametrize(("kind", "make", "owners", "calls"), THINGS, ids=[t[0] for t in THINGS])
def test_what_is_anothers_reads_as_what_is_not_there(
    people: dict[str, FlaskClient], kind: str, make: Make, owners: tuple[str, ...],
    calls: list[tuple[str, str, Any, int]],
) -> None:  # fmt: skip
    for owner in owners:
        identity = make(people[owner])
        for method, path, body, status in calls:
            for other in sorted(set(people) - {owner}):
                theirs = people[other].open(path.format(identity), method=method, json=body)
                gone = people[other].open(
                    path.format(GONE.get(kind, 99_999)), method=method, json=body
                )
                assert theirs.status_code == gone.status_code in (403, 404), (other, path)
                said = theirs.get_data(as_text=True).replace(str(identity), "X")
                assert said == gone.get_data(as_text=True).replace(str(GONE.get(kind, 99_999)), "X")
            own = people[owner].open(path.format(identity), method=method, json=body)
            assert own.status_code == status, (owner, path, own.get_data(as_text=True)[:200])


@pytest.mark.parametrize("field", ["school", "class", "student", "set"])
def test_a_question_may_name_ones_own_and_finds_nothing_else(
    place: Place, people: dict[str, FlaskClient], field: str
) -> None:
    whole = place.snapshot
    cal = people["cal"]
    roll = whole.rolls[-1]
    names = [s.name for s in whole.schools]
    at = {name: int((roll.school == names.index(name)).argmax()) for name in names}
    own, other, gone = {
        "school": (whole.schools[0].id, whole.schools[1].id, 99_999),
        "class": (*(c.id for c in sorted(whole.classes, key=lambda c: c.name)), 99_999),
        "student": (int(whole.student_ids[at["A"]]), int(whole.student_ids[at["B"]]), 99_999),
        "set": (
            made_group_named(cal, f"of cal, {field}"),
            made_group_named(people["ada"], f"of ada, {field}"),
            99_999,
        ),
    }[field]

    def asked(identity: int) -> tuple[int, str]:
        one = {"set": identity} if field == "set" else {"field": field, "in": [identity]}
        answer = cal.post("/api/answers", json={**QUIZ, "who": {"all": [one]}})
        return answer.status_code, answer.get_data(as_text=True).replace(str(identity), "X")

    assert asked(other) == asked(gone)
    assert asked(gone)[0] == 404
    assert asked(own)[0] == 200


def made_group_named(client: FlaskClient, name: str) -> int:
    body = {"name": name, "kind": "rule", "question": QUIZ}
    return int(client.post("/api/groups", json=body).get_json()["id"])
