"""What is long goes out packed to whoever takes it so, and says the same."""

from __future__ import annotations

import gzip
from collections.abc import Iterator

import pytest
from flask.testing import FlaskClient
from tests.support import Place, serving

from bridge_chart.api.app import WEB
from bridge_chart.cli.demo import PASSWORD

TAKES = {"Accept-Encoding": "gzip, br"}
EVERYBODY = {"show": "students", "page": {"size": 5000},
             "what": [{"assessment": "Spring survey", "subject": "Mathematics"}]}  # fmt: skip
FEW = {**EVERYBODY, "show": "spans", "page": None}


@pytest.fixture(scope="module")
def web(demo: Place) -> Iterator[FlaskClient]:
    with serving(demo) as app:
        client = app.test_client()
        body = {"login": "ailsa", "password": PASSWORD}
        assert client.post("/api/session", json=body).status_code == 200
        yield client


def test_a_long_answer_is_packed_for_whoever_takes_it(web: FlaskClient) -> None:
    plain = web.post("/api/answers", json=EVERYBODY)
    assert "Content-Encoding" not in plain.headers
    small = web.post("/api/answers", json=EVERYBODY, headers=TAKES)
    assert small.headers["Content-Encoding"] == "gzip"
    assert "Accept-Encoding" in small.headers["Vary"]
    assert gzip.decompress(small.data) == plain.data
    assert int(small.headers["Content-Length"]) == len(small.data) < len(plain.data) / 4


def test_a_short_answer_and_one_who_cannot_unpack_get_it_plain(web: FlaskClient) -> None:
    short = web.post("/api/answers", json=FEW, headers=TAKES)
    assert "Content-Encoding" not in short.headers
    refuses = {"Accept-Encoding": "gzip;q=0"}
    assert (
        "Content-Encoding" not in web.post("/api/answers", json=EVERYBODY, headers=refuses).headers
    )


def test_script_and_style_lie_packed_beside_themselves(web: FlaskClient) -> None:
    for file in (WEB / "assets").glob("index-*"):
        if file.suffix == ".gz":
            continue
        packed = web.get(f"/assets/{file.name}", headers=TAKES)
        plain = web.get(f"/assets/{file.name}")
        assert packed.headers["Content-Encoding"] == "gzip"
        assert "Content-Encoding" not in plain.headers
        assert packed.headers["Content-Type"] == plain.headers["Content-Type"]
        assert "immutable" in packed.headers["Cache-Control"]
        assert gzip.decompress(packed.data) == plain.data == file.read_bytes()
