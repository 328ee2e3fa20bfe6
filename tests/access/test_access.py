"""Access: every endpoint has a rule, every role its reach, nobody another school's students."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from typing import Any

import pytest
from flask.testing import FlaskClient
from tests.support import Place, serving

from bridge_chart.access.accounts import actor_named
from bridge_chart.access.rules import LOOKING, RULES, require, scope_for
from bridge_chart.access.sessions import sign_in
from bridge_chart.api.app import openapi_document
from bridge_chart.api.context import PUBLIC
from bridge_chart.api.describe import asked_schema
from bridge_chart.cli.demo import PASSWORD
from bridge_chart.terms.errors import NotAllowed, NotSignedIn
from bridge_chart.terms.people import Actor

MATHS = {"assessment": "Spring survey", "subject": "Mathematics"}
STUDENTS = {"show": "students", "what": [MATHS], "page": {"size": 5000}}


@pytest.fixture(scope="module")
def app(demo: Place) -> Iterator[Any]:
    with serving(demo) as made:
        yield made


@pytest.fixture
def client(app: Any) -> FlaskClient:
    return app.test_client()


def signed_in(app: Any, login: str) -> FlaskClient:
    client: FlaskClient = app.test_client()
    response = client.post("/api/session", json={"login": login, "password": PASSWORD})
    assert response.status_code == 200
    return client


@pytest.fixture(scope="module")
def lead(app: Any) -> FlaskClient:
    return signed_in(app, "ailsa")


@pytest.fixture(scope="module")
def teacher(app: Any) -> FlaskClient:
    return signed_in(app, "piran")


@pytest.fixture(scope="module")
def viewer(app: Any) -> FlaskClient:
    return signed_in(app, "tobias")


@pytest.fixture(scope="module")
def school_lead(app: Any) -> FlaskClient:
    return signed_in(app, "rowan")


def test_every_endpoint_declares_its_rule(app: Any) -> None:
    rules = {
        rule.rule: getattr(app.view_functions[rule.endpoint], "access_rule", None)
        for rule in app.url_map.iter_rules()
    }
    assert len(rules) > 12
    for path, rule in rules.items():
        assert rule == PUBLIC or rule in RULES, path
    public = {path for path, rule in rules.items() if rule == PUBLIC}
    assert public == {
        "/", "/<path:path>", "/api/health", "/api/openapi.json", "/api/session",
        "/api/links/look", "/api/links/use", "/api/sign-on", "/api/sign-on/begin",
        "/api/sign-on/back",
    }  # fmt: skip


GRID = {"class_id": 999, "columns": [{"test": "t", "sitting": "s", "role": "raw"}]}

NOTHING = {**STUDENTS, "what": [{"assessment": "No"}]}

ENDS = ("/api/session/everywhere",)
"""What ends the session that asks, and is tried in `test_sessions`."""

# What each may do: nobody, school lead, data lead. 401 not signed in, 403 not allowed.
TABLE = [
    ("GET", "/api/catalogue", None, 401, 200, 200),
    ("POST", "/api/answers", {"what": [MATHS]}, 401, 200, 200),
    ("POST", "/api/answers", STUDENTS, 401, 200, 200),
    ("POST", "/api/exports/csv", {"what": [MATHS]}, 401, 200, 200),
    ("POST", "/api/exports/csv-metadata", {"what": [MATHS]}, 401, 200, 200),
    ("POST", "/api/exports/workbook", {"what": [MATHS]}, 401, 200, 200),
    ("GET", "/api/groups", None, 401, 200, 200),
    (
        "POST",
        "/api/groups",
        {"name": " ", "kind": "rule", "question": {"what": [MATHS]}},
        401,
        422,
        422,
    ),
    ("DELETE", "/api/groups/999", None, 401, 404, 404),
    ("GET", "/api/questions", None, 401, 200, 200),
    ("POST", "/api/questions", {"name": " ", "question": {"what": [MATHS]}}, 401, 422, 422),
    ("DELETE", "/api/questions/999", None, 401, 404, 404),
    ("POST", "/api/notes/find", {"question": {"what": [MATHS]}}, 401, 200, 200),
    ("POST", "/api/notes", {"text": " ", "question": {"what": [MATHS]}}, 401, 422, 422),
    ("DELETE", "/api/notes/999", None, 401, 404, 404),
    ("GET", "/api/find?text=8a", None, 401, 200, 200),
    ("GET", "/api/attachments?sitting=999", None, 401, 404, 404),
    ("POST", "/api/attachments", None, 401, 403, 422),
    ("GET", "/api/attachments/999/file", None, 401, 404, 404),
    ("DELETE", "/api/attachments/999", None, 401, 403, 404),
    ("GET", "/api/pairings", None, 401, 200, 200),
    ("POST", "/api/pairings", {"sitting": 999, "one": 999, "other": 999}, 401, 404, 404),
    ("DELETE", "/api/pairings/999", None, 401, 404, 404),
    ("PUT", "/api/session/names", {"hidden": False}, 401, 200, 200),
    ("PUT", "/api/session/password", {"old": "no", "new": "no"}, 401, 422, 422),
    ("GET", "/api/accounts", None, 401, 403, 200),
    ("POST", "/api/accounts", {"login": " ", "name": "x", "role": "x"}, 401, 403, 422),
    ("PUT", "/api/accounts/999", {"name": "x", "role": "teacher", "revision": 1}, 401, 403, 404),
    ("PUT", "/api/accounts/999/closed", {"closed": True}, 401, 403, 404),
    ("POST", "/api/accounts/999/link", None, 401, 403, 404),
    ("DELETE", "/api/accounts/999/sessions", None, 401, 403, 404),
    ("DELETE", "/api/accounts/999/codes", None, 401, 403, 404),
    ("PUT", "/api/session/as", {"account": None}, 401, 200, 200),
    ("GET", "/api/session/codes", None, 401, 200, 200),
    ("POST", "/api/session/codes/offer", None, 401, 200, 200),
    ("PUT", "/api/session/codes", {"secret": "x", "code": "1", "password": "x"}, 401, 422, 422),
    ("PUT", "/api/session/codes/end", {"password": "x"}, 401, 422, 422),
    ("GET", "/api/published", None, 401, 200, 200),
    ("GET", "/api/published/figures?test=none&year_level=7", None, 401, 404, 404),
    ("GET", "/api/published/csv?test=none", None, 401, 404, 404),
    ("GET", "/api/erasures", None, 401, 403, 200),
    ("POST", "/api/erasures", {"student": 0, "number": "1", "reference": "x"}, 401, 403, 404),
    ("POST", "/api/erasures/leavers", {"due": 7}, 401, 403, 409),
    ("GET", "/api/retention", None, 401, 403, 200),
    ("PUT", "/api/retention", {"leavers_years": 3, "revision": 99}, 401, 403, 409),
    ("GET", "/api/students/0/everything", None, 401, 403, 404),
    ("GET", "/api/students/0/held", None, 401, 403, 404),
    ("GET", "/api/teachers?text=wren", None, 401, 403, 200),
    ("GET", "/api/backups", None, 401, 403, 200),
    ("GET", "/api/room", None, 401, 403, 200),
    ("GET", "/api/tokens", None, 401, 200, 200),
    ("POST", "/api/tokens", {"name": " ", "may": ["ask"], "days": 1}, 401, 422, 422),
    ("DELETE", "/api/tokens/999", None, 401, 404, 404),
    ("GET", "/api/audit", None, 401, 403, 200),
    ("GET", "/api/audit?action=x", None, 401, 403, 422),
    ("GET", "/api/audit/actions", None, 401, 403, 200),
    ("POST", "/api/audit/csv", {"number": "none"}, 401, 403, 404),
    ("GET", "/api/lists", None, 401, 200, 200),
    ("GET", "/api/colleagues", None, 401, 200, 200),
    ("POST", "/api/lists", {"name": " ", "question": STUDENTS}, 401, 422, 422),
    ("POST", "/api/lists/grid", {"question": NOTHING}, 401, 403, 404),
    ("PUT", "/api/lists/999", {"revision": 1, "name": "x"}, 401, 404, 404),
    ("PUT", "/api/lists/999/sharing", {"revision": 1}, 401, 404, 404),
    ("DELETE", "/api/lists/999", None, 401, 404, 404),
    ("GET", "/api/lists/999/changes", None, 401, 404, 404),
    ("GET", "/api/lists/999/effect", None, 401, 404, 404),
    ("POST", "/api/lists/999/seen", None, 401, 404, 404),
    ("GET", "/api/students/0", None, 401, 404, 404),
    ("GET", "/api/students/0/notes", None, 401, 404, 404),
    ("POST", "/api/students/0/notes", {"text": "seen"}, 401, 404, 404),
    ("DELETE", "/api/student-notes/999", None, 401, 404, 404),
    ("POST", "/api/exports/pdf", {"page": "elsewhere"}, 401, 422, 422),
    ("GET", "/api/drafts", None, 401, 403, 200),
    ("POST", "/api/drafts", None, 401, 403, 422),
    ("GET", "/api/drafts/nothing", None, 401, 403, 404),
    ("PUT", "/api/drafts/nothing/settings", {}, 401, 403, 404),
    ("POST", "/api/drafts/nothing/same", None, 401, 403, 404),
    ("GET", "/api/drafts/nothing/rows?finding=x", None, 401, 403, 404),
    ("DELETE", "/api/drafts/nothing", None, 401, 403, 404),
    ("POST", "/api/drafts/nothing/keep", {"token": "x"}, 401, 403, 404),
    ("GET", "/api/work/999", None, 401, 403, 404),
    ("POST", "/api/work/999/stop", None, 401, 403, 404),
    ("GET", "/api/batches", None, 401, 403, 200),
    ("GET", "/api/batches/1/aside", None, 401, 403, 200),
    ("GET", "/api/batches/1/lines?line=2", None, 401, 403, 200),
    ("GET", "/api/batches/1/mapping", None, 401, 403, 200),
    ("GET", "/api/batches/1/consequences", None, 401, 403, 200),
    ("POST", "/api/batches/999/settle", None, 401, 403, 404),
    ("POST", "/api/batches/999/again", None, 401, 403, 404),
    ("GET", "/api/export", None, 401, 403, 200),
    ("GET", "/api/names", None, 401, 403, 200),
    ("GET", "/api/remembered", None, 401, 403, 200),
    ("POST", "/api/remembered/999/forget", None, 401, 403, 404),
    ("GET", "/api/scales", None, 401, 403, 200),
    ("GET", "/api/movement-rules", None, 401, 403, 200),
    ("GET", "/api/award-rules", None, 401, 403, 200),
    ("POST", "/api/award-rules/try", {"rows": []}, 401, 403, 200),
    ("POST", "/api/grid", GRID, 401, 403, 422),
    ("GET", "/api/bundle", None, 401, 403, 200),
    ("POST", "/api/grid/file", GRID, 401, 403, 422),
    ("POST", "/api/grid/typed", {"spec": GRID, "title": "x", "rows": []}, 401, 403, 422),
    ("GET", "/api/releases", None, 401, 403, 200),
    ("POST", "/api/releases", {"title": " "}, 401, 403, 422),
    ("GET", "/api/sights", None, 401, 403, 200),
    ("PUT", "/api/sights", {"what": "999"}, 401, 403, 404),
    ("GET", "/api/words", None, 401, 403, 200),
    ("PUT", "/api/words", {"words": {}, "revision": 99}, 401, 403, 409),
    ("POST", "/api/batches/999/undo", None, 401, 403, 404),
    ("POST", "/api/batches/999/put-back", None, 401, 403, 404),
]


@pytest.mark.parametrize(("method", "path", "body", "nobody", "school", "district"), TABLE)
def test_truth_table(
    app: Any, client: FlaskClient, viewer: FlaskClient, teacher: FlaskClient,
    school_lead: FlaskClient, lead: FlaskClient,
    method: str, path: str, body: Any, nobody: int, school: int, district: int,
) -> None:  # fmt: skip
    # A teacher may do what a school lead may, for less people, and not pair classes; a viewer looks
    # at what is published, and after their own account.
    teaching = 403 if path.startswith("/api/pairings") else school
    viewing = school if "viewer" in RULES[view_of(app, method, path).access_rule] else 403
    table = ((client, nobody), (viewer, viewing), (teacher, teaching), (school_lead, school),
             (lead, district))  # fmt: skip
    for who, expected in table:
        response = who.open(path, method=method, json=body)
        assert response.status_code == expected, response.get_data(as_text=True)[:300]
        if expected >= 400:
            error = response.get_json()["error"]
            assert {"code", "message", "kept", "next"} <= set(error)


def view_of(app: Any, method: str, path: str) -> Any:
    """The endpoint that answers a path."""
    endpoint, _ = app.url_map.bind("").match(path.split("?")[0], method)
    return app.view_functions[endpoint]


def test_who_sees_as_a_teacher_may_look_as_they_may_and_change_nothing(
    app: Any, demo: Place, teacher: FlaskClient
) -> None:
    """Over the whole table: what the teacher may look at; 403 for what changes something."""
    seeing = signed_in(app, "ailsa")
    piran = demo.scalar("SELECT id FROM account WHERE login = 'piran'")
    told = seeing.put("/api/session/as", json={"account": piran}).get_json()
    assert (told["name"], told["seeing_as"], told["login"]) == ("Piran Tamblin", "piran", "ailsa")
    for method, path, body, *_ in TABLE:
        view = view_of(app, method, path)
        looks = method == "GET" or view.only_reads
        allowed = looks and view.access_rule in LOOKING and "teacher" in RULES[view.access_rule]
        if path in ("/api/session/as", "/api/exports/pdf"):
            continue
        answer = seeing.open(path, method=method, json=body)
        if not allowed:
            assert answer.status_code == 403, (method, path)
            continue
        same = teacher.open(path, method=method, json=body)
        assert answer.status_code == same.status_code, path
        if answer.is_json and view.access_rule != "look" and path != "/api/colleagues":
            assert answer.get_json() == same.get_json(), path
    query = "SELECT login || ' ' || (detail ->> 'as') FROM audit WHERE action = 'open_students'"
    assert demo.scalar(f"{query} AND detail ->> 'as' IS NOT NULL LIMIT 1") == "ailsa piran"
    assert seeing.put("/api/session/as", json={"account": None}).get_json()["seeing_as"] == ""
    assert seeing.get("/api/audit").status_code == 200


def test_nobody_but_a_data_lead_sees_as_somebody(
    app: Any, demo: Place, viewer: FlaskClient, school_lead: FlaskClient
) -> None:
    ailsa = demo.scalar("SELECT id FROM account WHERE login = 'ailsa'")
    for who in (viewer, school_lead):
        assert who.put("/api/session/as", json={"account": ailsa}).status_code == 403
        with demo.engine.begin() as connection:  # even where the record says so
            connection.exec_driver_sql(f"UPDATE session SET sees_as = {ailsa}")
        assert who.get("/api/audit").status_code == 403
        with demo.engine.begin() as connection:
            connection.exec_driver_sql("UPDATE session SET sees_as = NULL")
    lead = signed_in(app, "ailsa")
    assert lead.put("/api/session/as", json={"account": 99_999}).status_code == 404


def test_the_table_names_every_endpoint(app: Any) -> None:
    def shape(path: str) -> str:
        plain = path.split("?")[0].replace("nothing", "*").replace("999", "*")
        return re.sub("/[01](?=/|$)", "/*", plain)

    listed = {(method, shape(path)) for method, path, *_ in TABLE}
    for rule in app.url_map.iter_rules():
        if app.view_functions[rule.endpoint].access_rule != PUBLIC and rule.rule not in ENDS:
            path = "/".join("*" if part.startswith("<") else part for part in rule.rule.split("/"))
            for method in rule.methods - {"HEAD", "OPTIONS"}:
                assert (method, path) in listed


def test_with_names_hidden_no_file_is_opened(app: Any) -> None:
    """Files hold names as they came; nothing of them is shown until names are shown again."""
    client = signed_in(app, "ailsa")
    assert client.put("/api/session/names", json={"hidden": True}).get_json()["names_hidden"]
    for path in ("/api/batches", "/api/batches/1/lines?line=2", "/api/drafts", "/api/export",
                 "/api/bundle"):  # fmt: skip
        refused = client.get(path)
        assert refused.status_code == 403
        assert "Names are hidden" in refused.get_json()["error"]["message"]
    client.put("/api/session/names", json={"hidden": False})
    assert client.get("/api/batches").status_code == 200


def test_the_rule_runs_before_the_body_is_read(school_lead: FlaskClient) -> None:
    response = school_lead.post("/api/drafts", data=b"not a form at all")
    assert response.status_code == 403


@pytest.mark.parametrize("as_of", ["sitting", "today", {"year": "2023-24"}], ids=str)
def test_a_school_lead_sees_no_student_of_another_school(
    demo: Place, school_lead: FlaskClient, lead: FlaskClient, as_of: Any
) -> None:
    asked = {**STUDENTS, "who": {"as_of": as_of}}
    everyone = lead.post("/api/answers", json={**asked, "who": {"as_of": as_of, "all": [
        {"field": "school", "in": ["Fernhollow"]}]}}).get_json()  # fmt: skip
    own = school_lead.post("/api/answers", json=asked).get_json()
    assert 0 < len(own["body"]["student"]) <= len(everyone["body"]["student"])
    assert set(own["body"]["student"]) <= set(everyone["body"]["student"])
    schools = next(c["values"] for c in own["body"]["columns"] if c["key"] == "school")
    assert set(schools) == {"Fernhollow"}


def test_an_old_roll_opens_nobodys_later_results(demo: Place, school_lead: FlaskClient) -> None:
    """Who was at Fernhollow two years ago and is elsewhere since: their new results are not
    Fernhollow's to see."""
    asked = {**STUDENTS, "who": {"as_of": {"year": "2023-24"}},
             "what": [{**MATHS, "sitting": "spring 2026"}]}  # fmt: skip
    shown = set(school_lead.post("/api/answers", json=asked).get_json()["body"]["student"])
    snapshot = demo.snapshot
    position = [s.name for s in snapshot.schools].index("Fernhollow")
    first, last = snapshot.rolls[0], snapshot.rolls[-1]
    left = (first.school == position) & (last.school != position)
    assert left.sum() > 5
    assert shown.isdisjoint(snapshot.student_ids[left].tolist())


@pytest.mark.parametrize("split", [{"field": "school"}, {"field": "class"}, {"field": "teacher"}])
def test_no_other_school_is_named_in_a_row(school_lead: FlaskClient, split: Any) -> None:
    body = {"what": [MATHS], "split": [split], "who": {"as_of": "today"}}
    answer = school_lead.post("/api/answers", json=body)
    text = json.dumps(answer.get_json()["body"])
    assert ("Fernhollow" in text) == (split == {"field": "school"})
    for other in ("Brackwater", "Netherby", "Skarra Point"):
        assert other not in text


def test_another_school_is_not_found_in_the_words_of_one_that_does_not_exist(
    demo: Place, school_lead: FlaskClient
) -> None:
    """Neither by name nor by id, nor a class, a teacher or a student of it."""
    whole = demo.snapshot
    other = next(s for s in whole.schools if s.name == "Brackwater")
    foreign_class = next(c for c in whole.classes if c.school_id == other.id)
    roll = whole.rolls[-1]
    foreign = int(whole.student_ids[roll.school == whole.schools.index(other)][0])
    for field, real, invented in (
        ("school", "Brackwater", "Brackwatter"),
        ("school", other.id, 99_999),
        ("class", foreign_class.id, 99_999),
        ("teacher", whole.staff[foreign_class.teachers[0]], "Nobody Atall"),
        ("student", foreign, 99_999_999),
    ):
        said = []
        for named in (real, invented):
            body = {**STUDENTS, "who": {"all": [{"field": field, "in": [named]}]}}
            answer = school_lead.post("/api/answers", json=body)
            assert answer.status_code == 404, (field, named)
            said.append(answer.get_data(as_text=True).replace(str(named), "X"))
        assert said[0] == said[1]
        assert "Netherby" not in said[0]


def test_the_catalogue_offers_the_scope_only(school_lead: FlaskClient, lead: FlaskClient) -> None:
    own = school_lead.get("/api/catalogue").get_json()
    every = lead.get("/api/catalogue").get_json()
    assert [s["label"] for s in own["schools"]] == ["Fernhollow"]
    assert len(every["schools"]) == 11
    assert own["students"] < every["students"] / 5
    assert all(c["label"].endswith("Fernhollow") for c in own["classes"])


def test_looking_at_students_and_exporting_are_noted(demo: Place, school_lead: FlaskClient) -> None:
    count = "SELECT count(*) FROM audit WHERE login = 'rowan' AND action = '{}'"
    before = [demo.scalar(count.format(action)) for action in ("open_students", "export")]
    for _ in range(2):  # the second comes from what was kept, and is noted all the same
        school_lead.post("/api/answers", json=STUDENTS)
    school_lead.post("/api/exports/csv", json={"what": [MATHS]})
    after = [demo.scalar(count.format(action)) for action in ("open_students", "export")]
    assert [a - b for a, b in zip(after, before, strict=True)] == [2, 1]  # type: ignore[operator]


def test_signing_in_and_out(app: Any, demo: Place) -> None:
    client = app.test_client()
    assert client.get("/api/session").get_json() == {"person": None}
    for login, password in (("ailsa", "wrong-password"), ("nobody", PASSWORD), ("", "")):
        response = client.post("/api/session", json={"login": login, "password": password})
        assert response.status_code == 401
        assert "do not fit" in response.get_json()["error"]["message"]
    cookie = client.post("/api/session", json={"login": "rowan", "password": PASSWORD})
    held = cookie.headers["Set-Cookie"]
    assert "HttpOnly" in held
    assert "SameSite=Lax" in held
    assert client.get("/api/session").get_json()["person"]["may"] == [
        "own_account", "look", "published", "ask", "open_students", "export", "pair",
    ]  # fmt: skip
    client.delete("/api/session")
    assert client.get("/api/catalogue").status_code == 401


def test_signing_out_ends_the_session_and_not_only_the_cookie(app: Any) -> None:
    """An answer under way when somebody signs out brings the old cookie back, and a copy of it may
    lie anywhere: neither is worth anything any more."""
    client = signed_in(app, "rowan")
    held = client.get_cookie("bridge_chart")
    assert held is not None
    client.delete("/api/session")
    for again in (client, app.test_client()):
        again.set_cookie("bridge_chart", held.value)
        assert again.get("/api/catalogue").status_code == 401
        assert again.get("/api/session").get_json() == {"person": None}
    assert signed_in(app, "rowan").get("/api/catalogue").status_code == 200


def test_another_sites_page_cannot_act(lead: FlaskClient) -> None:
    headers = {"Origin": "http://elsewhere.example"}
    response = lead.post("/api/answers", json={"what": [MATHS]}, headers=headers)
    assert response.status_code == 403


def test_a_closed_account_is_out_at_once(demo: Place) -> None:
    demo.account("leaver", "school_lead", "Netherby")
    actor, _ = sign_in(demo.engine, "leaver", "long-enough-password", "127.0.0.1")
    assert scope_for(actor).schools == actor.schools
    with demo.engine.begin() as connection:
        connection.exec_driver_sql("UPDATE account SET closed = true WHERE login = 'leaver'")
    with pytest.raises(NotSignedIn):
        actor_named(demo.engine, "leaver")


def test_no_grant_is_nobody_and_no_role_nothing() -> None:
    without = Actor(1, "x", "X", "school_lead")
    assert scope_for(without).schools == frozenset()
    with pytest.raises(NotAllowed):
        require(Actor(1, "x", "X", "guest"), "ask")


def test_errors_have_one_shape(lead: FlaskClient) -> None:
    for response, status, code in (
        (lead.post("/api/answers", json={"what": [MATHS], "colour": 1}), 422, "invalid"),
        (lead.post("/api/answers", data=b"{", content_type="application/json"), 422, "invalid"),
        (lead.post("/api/answers", json={"what": [MATHS], "show": "bridge"}), 501, "not_yet"),
        (lead.get("/api/nowhere"), 404, "not_found"),
    ):
        assert response.status_code == status
        error = response.get_json()["error"]
        assert code is None or error["code"] == code


def test_the_interfaces_description_is_the_kept_one(app: Any) -> None:
    from pathlib import Path

    kept = Path(__file__).resolve().parents[2] / "docs" / "openapi.json"
    document = json.loads(json.dumps(openapi_document(app)))
    assert document == json.loads(kept.read_text(encoding="utf-8")), "run ./bridge describe"
    assert document["openapi"].startswith("3.1")
    asked = kept.parents[1] / "web" / "src" / "api" / "asked.schema.json"
    assert asked_schema(document) == json.loads(asked.read_text(encoding="utf-8"))
