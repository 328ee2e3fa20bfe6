"""No request makes a 500: hostile, broken and huge ones, on every endpoint, as every role."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from typing import Any

import pytest
from flask.testing import FlaskClient
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.access.test_access import TABLE
from tests.effort import LONG, examples
from tests.support import Place, serving

from bridge_chart.api.app import openapi_document
from bridge_chart.cli.demo import PASSWORD
from bridge_chart.terms.strict import LARGEST_ID

MATHS = {"assessment": "Spring survey", "subject": "Mathematics"}
DEEP = '{"what":[{"assessment":1}],"who":{"all":[' + '{"not":' * 3000 + "1" + "}" * 3000 + "]}}"
BODIES: dict[str, str | bytes] = {
    "nothing": "",
    "no JSON": "{what",
    "half": '{"what": [',
    "a list": "[]",
    "a number": "7",
    "null": "null",
    "not UTF-8": b'{"name": "\xff\xfe"}',
    "not a number": json.dumps({"what": [MATHS], "who": {"all": [
        {"measure": MATHS, "from": float("nan")}]}}),
    "infinity": '{"what":[{"assessment":1}],"who":{"all":[{"measure":{"assessment":1},'
    '"to":1e999}]}}',
    "NUL": '{"login": "a\\u0000", "password": "b\\u0000cdefghijk", "name": "\\u0000"}',
    "a huge id": json.dumps({"what": [{**MATHS, "assessment": 2**70}]}),
    "a large id": json.dumps({"what": [{**MATHS, "assessment": LARGEST_ID}]}),
    "year nought": json.dumps({"what": [MATHS], "who": {"as_of": {"year": "0000-01"}}}),
    "day nought": json.dumps({"what": [MATHS], "who": {"as_of": {"date": "0000-00-00"}}}),
    "nested in thousands": DEEP,
    "brackets alone": "[" * 100_000,
    "markup": json.dumps({"what": [MATHS], "who": {"all": [
        {"field": "school", "in": ["<script>alert(1)</script>"]}]}}),
    "a long name": json.dumps({"what": [{**MATHS, "assessment": "x" * 500_000}]}),
    "a formula": json.dumps({"name": "=cmd()", "kind": "rule", "question": {"what": [MATHS]}}),
    "surrogates": '{"name": "\\ud800", "text": "\\ud800", "login": "\\ud800"}',
}  # fmt: skip


@pytest.fixture(scope="module")
def clients(demo: Place) -> Iterator[dict[str, FlaskClient]]:
    """Nobody, a school lead, the data lead. The demo is only read: each body is refused."""
    with serving(demo) as app:
        out = {"nobody": app.test_client()}
        for login in ("rowan", "ailsa"):
            out[login] = app.test_client()
            out[login].post("/api/session", json={"login": login, "password": PASSWORD})
        yield out


def answered(client: FlaskClient, method: str, path: str, body: str | bytes) -> int:
    response = client.open(path, method=method, data=body, content_type="application/json")
    if response.status_code >= 400:
        error = response.get_json()["error"]
        assert {"code", "message", "kept", "next", "details"} == set(error)
        assert "Traceback" not in error["message"]
    return response.status_code


@pytest.mark.parametrize("name", list(BODIES))
@pytest.mark.parametrize("who", ["nobody", "rowan", "ailsa"])
def test_no_body_breaks_an_endpoint(clients: dict[str, FlaskClient], who: str, name: str) -> None:
    writing = [(method, path) for method, path, *_ in TABLE if method in ("POST", "PUT")]
    for method, path in [*writing, ("POST", "/api/session")]:
        if path == "/api/session" and who != "nobody":
            continue  # signing in again is another matter
        status = answered(clients[who], method, path, BODIES[name])
        assert status < 500 or status == 501, (path, name)


@pytest.mark.parametrize("number", [0, -1, LARGEST_ID, 2**31, 2**63, 10**40])
@pytest.mark.parametrize("who", ["rowan", "ailsa"])
def test_no_number_breaks_an_address(
    clients: dict[str, FlaskClient], who: str, number: int
) -> None:
    for method, path, *_ in TABLE:
        if "999" in path:
            status = answered(clients[who], method, path.replace("999", str(number)), "")
            assert status in (403, 404, 405, 422), path
    for path in ("/api/batches/1/lines?line=", "/api/find?text="):
        assert answered(clients[who], "GET", f"{path}{number}", "") < 500


@pytest.mark.parametrize("text", ["%00", "a%00b", "%ff", "x" * 5000, "%F0%9F%90%9F", "'; --"])
def test_no_text_breaks_an_address(clients: dict[str, FlaskClient], text: str) -> None:
    for path in (f"/api/find?text={text}", f"/api/drafts/{text}", f"/methods/{text}",
                 f"/api/{text}", f"/{text}", f"/api/batches/1/lines?line={text}"):  # fmt: skip
        response = clients["ailsa"].get(path)
        response.close()
        assert response.status_code < 500, path


def test_a_text_for_a_file_is_told_so(clients: dict[str, FlaskClient]) -> None:
    response = clients["ailsa"].post("/api/drafts", data={"kind": "roster", "file": "a,b"})
    assert response.status_code == 422
    assert "file" in response.get_json()["error"]["message"]
    assert clients["ailsa"].post("/api/drafts", data={"kind": "roster"}).status_code == 422
    odd = clients["ailsa"].post("/api/drafts", data={"kind": "r\x00ster", "file": "x"})
    assert odd.status_code == 422


def test_random_json_breaks_nothing(clients: dict[str, FlaskClient]) -> None:
    keys = st.sampled_from(["what", "who", "all", "field", "in", "measure", "assessment", "show",
                            "split", "against", "prior", "open", "not", "any", "from"])  # fmt: skip
    plain = st.one_of(st.none(), st.booleans(), st.integers(), st.floats(), st.text(max_size=8),
                      st.sampled_from(["Spring survey", "spans", "each", "school"]))  # fmt: skip
    values = st.recursive(
        plain, lambda inner: st.one_of(st.lists(inner, max_size=3),
                                       st.dictionaries(keys, inner, max_size=4)), max_leaves=12,
    )  # fmt: skip

    @settings(max_examples=examples(80), derandomize=not LONG)
    @given(st.dictionaries(keys, values, max_size=5))
    def tried(body: dict[str, Any]) -> None:
        for path in ("/api/answers", "/api/notes/find"):
            status = answered(clients["ailsa"], "POST", path, json.dumps(body))
            assert status < 500 or status == 501

    tried()


def test_the_description_is_valid_and_declares_every_error(demo: Place) -> None:
    with serving(demo) as app:
        document = openapi_document(app)
    assert document["openapi"].startswith("3.1")
    assert None not in document["components"].values()
    schemas = document["components"]["schemas"]
    text = json.dumps(document)
    for reference in set(re.findall(r'"#/components/schemas/([^"]+)"', text)):
        assert reference in schemas, reference
    for path, operations in document["paths"].items():
        for method, operation in operations.items():
            for status in ("401", "403", "404", "422", "500"):
                body = operation["responses"][status]["content"]["application/json"]["schema"]
                assert body == {"$ref": "#/components/schemas/ErrorBody"}, (method, path)
    assert set(schemas["ErrorInfo"]["required"]) == {"code", "message", "kept", "next", "details"}


def test_a_wrong_list_is_told_in_words_of_the_format(clients: dict[str, FlaskClient]) -> None:
    what = [{"assessment": "Spring survey", "subject": "Mathematics", "sitting": "spring 2026"}]
    response = clients["ailsa"].post("/api/answers", json={"what": what, "split": "school"})
    assert response.status_code == 422
    assert "split: Input should be a list" in response.get_json()["error"]["message"]
