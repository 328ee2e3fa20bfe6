"""Tests, walked through: which strands, which questions, whose students, beside whom."""

from __future__ import annotations

import io
import json
import re
import urllib.parse
from typing import Any

from playwright.sync_api import Locator, Page, expect
from pypdf import PageObject, PdfReader
from tests.e2e.screens import accessible, answered, question_of, sign_in
from tests.e2e.test_people import downloaded

CHECK = {"assessment": "Harbour check", "sitting": "winter 2026", "form": "A"}
EIGHTH = {"all": [{"field": "year_level", "in": [8]}]}


def of_class(name: str) -> dict[str, Any]:
    here = f"Netherby: {name}, 2025-26"
    return {"label": name, "who": {"all": [{"field": "class", "in": [here]}]}}


BESIDE = {
    "show": "items", "what": [CHECK], "who": EIGHTH, "against": {"group": {"who": EIGHTH}},
    "split": [{"populations": [of_class("8B"), of_class("8A")]}],
}  # fmt: skip


def spots(sheet: PageObject) -> list[tuple[str, float]]:
    """What stands where across a sheet."""
    out: list[tuple[str, float]] = []

    def note(text: str, cm: list[float], tm: list[float], *_: object) -> None:
        if text.strip():
            out.append((text, cm[0] * tm[4] + cm[4]))

    sheet.extract_text(visitor_text=note)
    return out


def ask(page: Page, place: str = "tests", **change: object) -> None:
    page.goto(f"/{place}?q={urllib.parse.quote(json.dumps({**BESIDE, **change}))}")
    answered(page)


def rows(page: Page) -> list[str]:
    found = page.get_by_role("region", name="Answer").get_by_role("listitem").all_inner_texts()
    return [re.sub(r"\s+", " ", one) for one in found]


def said(page: Page) -> Locator:
    return page.get_by_role("complementary", name="What it says")


def test_from_the_place_to_the_strands_of_a_class_and_its_students(page: Page) -> None:
    """From the place to a strand, and the students behind it."""
    sign_in(page)
    page.get_by_role("link", name="Tests").click()
    answered(page)
    expect(page.get_by_role("heading", level=1)).to_contain_text(
        "How did All students in all schools answer Mathematics, winter 2026, form A, split by"
    )
    assert len(rows(page)) == 30
    accessible(page)
    ask(page)
    expect(said(page)).to_contain_text("Strands first: 8B is 39 points behind the rest of Year 8")
    assert rows(page)[0].startswith("Q20 Angles in a triangle Shape and space")
    page.get_by_role("radio", name="Strands").click()
    answered(page)
    shown = rows(page)
    assert [one.split(" 6 questions")[0] for one in shown[:2]] == ["Shape and space", "Fractions"]
    assert "behind by more than chance" in shown[0]
    assert "too wide to tell" in shown[2]
    accessible(page)
    page.get_by_role("button", name=re.compile("^Fractions")).click()
    answered(page)
    closer = page.get_by_role("region", name="Fractions, looked at")
    expect(closer.get_by_role("button", name=re.compile("^Q"))).to_have_count(6)
    accessible(page)
    closer.get_by_role("button", name="8B: the 17 students").click()
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer.get_by_role("heading")).to_have_text("17 students")
    expect(drawer).to_contain_text("Mathematics, Fractions, winter 2026")
    page.keyboard.press("Escape")
    closer.get_by_role("button", name="Close").click()
    answered(page)
    # Another group comes to the front: the same figures from its side, and the address keeps it.
    page.get_by_role("button", name=re.compile("^8A, 16")).click()
    expect(page.get_by_role("button", name=re.compile("^8A, 16"))).to_have_attribute(
        "aria-pressed", "true"
    )
    turned = rows(page)
    assert not any("behind by more than chance" in one for one in turned)
    page.reload()
    answered(page)
    assert rows(page) == turned


def test_in_the_order_of_the_paper_and_as_figures(page: Page) -> None:
    sign_in(page)
    ask(page)
    page.get_by_role("radio", name="as the paper has them").click()
    answered(page)
    assert question_of(page)["options"] == {"by": "question", "order": "paper"}
    assert [one.split()[0] for one in rows(page)] == [f"Q{n}" for n in range(1, 31)]
    page.keyboard.press("t")
    table = page.get_by_role("table")
    expect(table).to_be_visible()
    first = table.get_by_role("row", name=re.compile("^Q9 "))
    expect(first).to_contain_text("32%")
    expect(first).to_contain_text("−27")
    accessible(page)
    page.get_by_role("button", name="Chart").click()
    # On paper every row is there.
    page.emulate_media(media="print")
    expect(page.get_by_role("region", name="Answer").get_by_role("listitem")).to_have_count(30)


def test_the_grid_of_a_class_is_a_list_like_any_other(page: Page) -> None:
    sign_in(page)
    ask(page)
    page.get_by_role("button", name="8B: students by question").click()
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer.get_by_role("heading")).to_have_text("17 students")
    heads = drawer.get_by_role("columnheader")
    expect(heads.filter(has_text=re.compile("^Q30$"))).to_have_count(1)
    first = drawer.locator("tbody").get_by_role("row").first
    expect(first).to_contain_text("Zeno Oster")  # the best first, and the easiest question
    assert heads.all_inner_texts()[-30] == "Q1"
    drawer.get_by_role("button", name=re.compile("^Winter 2026, form A")).click()
    head = drawer.get_by_role("columnheader", name=re.compile("^Winter 2026, form A"))
    expect(head).to_have_attribute("aria-sort", "ascending")
    expect(drawer.locator("tbody").get_by_role("row").first).to_contain_text("Lowen Cadder")
    totals = [
        int(row.get_by_role("cell").nth(1).inner_text())
        for row in drawer.locator("tbody").get_by_role("row").all()
    ]
    assert totals == sorted(totals)
    assert len(totals) == 17
    drawer.get_by_role("button", name="Keep these students as a list").click()
    page.get_by_label("Name of the list").fill("8B, question by question")
    page.get_by_role("button", name="Keep the list").click()
    page.get_by_role("link", name="Open “8B, question by question”").click()
    expect(page.get_by_role("region", name="List")).to_have_attribute("aria-busy", "false")
    expect(page.get_by_role("columnheader", name=re.compile("^Q30$"))).to_be_visible()
    # Blanks after the last answer say so.
    expect(page.get_by_role("region", name="List")).to_contain_text("– not reached")
    # On paper no question is cut off, and larger sheets hold it larger.
    for button, width in (("PDF", 843), ("PDF, A3", 1191)):
        paper = PdfReader(io.BytesIO(downloaded(page, button)))
        text = paper.pages[0].extract_text()
        assert all(re.search(rf"\bQ{n}\b", text) for n in range(1, 31))
        assert round(float(paper.pages[0].mediabox.width)) == width
        inside = [x for _, x in spots(paper.pages[0])]
        assert 0 < min(inside) < max(inside) < width


def test_questions_that_work_differently_for_a_group(page: Page) -> None:
    sign_in(page)
    fluency = [{"characteristic": "English fluency"}]
    ask(page, who={}, split=fluency, against=None)
    page.get_by_role("toolbar", name="Lens").get_by_role("button", name="Fairness").click()
    answered(page)
    expect(said(page)).to_contain_text("are easier for first language than for the others")
    expect(said(page)).to_contain_text("It is no proof of bias")
    row = page.get_by_role("row", name=re.compile("^Q27 Problems in words"))
    expect(row).to_contain_text("easier than for others with the same total")
    accessible(page)
    page.get_by_role("button", name=re.compile("^first language 630 beside 157")).click()
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer.get_by_role("heading")).to_contain_text(re.compile(r"^63\d students"))


def test_a_question_opens_in_the_place_that_can_show_it(page: Page) -> None:
    sign_in(page)
    ask(page, place="compare")
    expect(page).to_have_url(re.compile(r"/tests\?"))
    assert rows(page)[0].startswith("Q20")
    ask(page, show="table", options={})
    expect(page).to_have_url(re.compile(r"/compare\?"))
    both = json.dumps({**BESIDE, "what": [{**CHECK, "form": None}]})
    page.goto(f"/tests?q={urllib.parse.quote(both)}")
    expect(page.get_by_role("alert")).to_contain_text("several forms")
    expect(page.get_by_role("alert")).to_contain_text("Choose form A or B")


def test_who_leads_a_school_sees_its_own(page: Page) -> None:
    sign_in(page, "rowan")
    page.get_by_role("link", name="Tests").click()
    answered(page)
    expect(page.get_by_role("heading", level=1)).to_contain_text("in Fernhollow")
    assert len(rows(page)) == 30
    legend = page.get_by_role("figure").get_by_role("button", name=re.compile(r", \d+$"))
    expect(legend.first).to_be_visible()
    text = page.get_by_role("region", name="Answer").inner_text()
    assert "Netherby" not in text


def test_what_the_other_class_wrote_in_three_choices(page: Page) -> None:
    """Tests, my class in front, the question: what both chose and wrote stands side by side."""
    sign_in(page, "rowan")
    page.get_by_role("link", name="Tests").click()
    answered(page)
    page.get_by_role("button", name=re.compile("^8B")).first.click()
    page.get_by_role("button", name=re.compile("^Q8 ")).click()
    answered(page)
    closer = page.get_by_role("region", name="Q8, looked at")
    expect(closer.get_by_role("heading", name="Q8 · Dividing by a half")).to_be_visible()
    expect(closer.get_by_role("heading", name=re.compile(r"^8B.* wrote \(\d+\)"))).to_be_visible()
    expect(closer.get_by_role("heading", name=re.compile(r"^8A.* wrote \(\d+\)"))).to_be_visible()
    expect(
        closer.get_by_role("row", name=re.compile("^B 6 ÷ ½ = 12 .*right by the key"))
    ).to_be_visible()
    expect(closer.get_by_role("button", name=re.compile("Correct"))).to_have_count(0)
    accessible(page)
    chosen = closer.get_by_role("row", name=re.compile("^A 6 ÷ ½ = 3")).get_by_role("button").first
    n = re.search(r"%\s*(\d+)", chosen.inner_text())
    assert n
    chosen.click()
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer.get_by_role("heading").first).to_contain_text(f"{n[1]} student")


def test_a_teacher_sees_what_the_paired_class_wrote_in_two_choices(page: Page) -> None:
    """Own class beside the rest of the district, the other class as figures, nobody of it."""
    sign_in(page, "piran")
    page.get_by_role("link", name="Tests").click()
    answered(page)
    heading = page.get_by_role("heading", level=1)
    expect(heading).to_contain_text("All students in the classes of P. Tamblin answer")
    expect(heading).to_contain_text("beside the rest of the district")
    expect(said(page)).to_contain_text("8B is 39 points behind the rest of the district in Shape")
    page.get_by_role("button", name=re.compile("^Q8 ")).click()
    answered(page)
    closer = page.get_by_role("region", name="Q8, looked at")
    expect(closer.get_by_role("heading", name=re.compile(r"^8A, Netherby \(\d+\)"))).to_be_visible()
    expect(closer).to_contain_text(re.compile(r"“How many halves go into six.*” · \d+ like this"))
    expect(page.get_by_role("button", name=re.compile("Pair classes"))).to_have_count(0)
    accessible(page)


def test_a_wrong_key_is_called_out_and_corrected_on_screen(page: Page) -> None:
    sign_in(page)
    everybody = {"what": [{**CHECK, "form": "B"}], "who": {}, "split": [{"characteristic": "Sex"}],
                 "against": None}  # fmt: skip
    ask(page, **everybody)
    expect(said(page).get_by_role("listitem").first).to_contain_text(
        re.compile(
            r"Q10: Of the best third \d+ chose [A-D] and \d+ chose [A-D], which the key says"
        )
    )
    page.get_by_role("button", name=re.compile("^Q10 ")).click()
    answered(page)
    closer = page.get_by_role("region", name="Q10, looked at")
    expect(closer).to_contain_text("the key may be wrong")
    expect(closer).to_contain_text("the best choose this")
    closer.get_by_role("button", name="Correct the key …").click()
    expect(page.get_by_text(re.compile(r"\d+ marks of kept answers move"))).to_be_visible()
    expect(
        page.get_by_text(re.compile(r"Q10 of Mathematics, winter 2026, form B: \d+ gain, \d+ lose"))
    ).to_be_visible()
    page.get_by_role("button", name=re.compile("^Keep")).first.click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Intake")
    ask(page, **everybody, options={"look": "Q10"})
    expect(closer).to_be_visible()
    expect(closer).not_to_contain_text("the key may be wrong")
    expect(said(page)).not_to_contain_text("Of the best third")


def test_a_paper_is_attached_opened_at_its_page_and_removed(page: Page) -> None:
    sign_in(page)
    ask(page, options={"look": "Q20"})
    link = page.get_by_role("link", name="open the paper at page 3")
    expect(link).to_be_visible()
    target = link.get_attribute("href") or ""
    assert target.endswith("/file#page=3")
    answer = page.request.get(target.split("#")[0])
    assert answer.body().startswith(b"%PDF-")
    assert answer.headers["content-type"] == "application/pdf"
    assert answer.headers["x-content-type-options"] == "nosniff"
    assert "default-src 'none'" in answer.headers["content-security-policy"]
    page.get_by_role("button", name="Attach a paper, a mark scheme or a report").click()
    panel = page.get_by_role("dialog", name="What is attached")
    panel.get_by_label("It is a").select_option("report")
    picture = b"\x89PNG\r\n\x1a\n" + bytes(40)
    chooser = panel.get_by_label(re.compile("^PDF, PNG or JPEG"))
    page_as_picture = {"name": "<b>report.png", "mimeType": "image/png", "buffer": picture}
    chooser.set_input_files(page_as_picture)  # type: ignore[arg-type]
    expect(panel).to_contain_text("report: <b>report.png")
    script = {"name": "report.pdf", "mimeType": "application/pdf", "buffer": b"<script>1</script>"}
    chooser.set_input_files(script)  # type: ignore[arg-type]
    expect(panel).to_contain_text("report.pdf is no PDF, PNG or JPEG of up to 20 MB")
    accessible(page)
    panel.get_by_role("button", name="Remove <b>report.png").click()
    expect(panel).not_to_contain_text("<b>report.png")


def test_who_is_near_a_boundary_is_a_list_in_one_choice(page: Page) -> None:
    sign_in(page)
    ask(page, show="spread", what=[{**CHECK, "score": "raw"}], against=None)
    near = page.get_by_role("region", name="Near a boundary")
    expect(near).to_contain_text("the error of measurement, by its questions")
    near.get_by_label("How near, in marks").fill("4")
    near.get_by_label("How near, in marks").press("Enter")
    answered(page)
    expect(near).to_contain_text("as you said")
    choice = near.get_by_role("button", name=re.compile("just short")).first
    n = choice.inner_text().split()[0]
    accessible(page)
    choice.click()
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer.get_by_role("heading").first).to_contain_text(f"{n} student")


def test_from_a_students_page_into_the_test_and_back(page: Page) -> None:
    sign_in(page)
    page.goto("/people/student/15")
    page.get_by_role("link", name="question by question").first.click()
    answered(page)
    expect(said(page)).to_contain_text(re.compile(r"This student won \d+ of 40 marks; on average"))
    assert len(rows(page)) >= 30
    page.go_back()
    expect(page.get_by_role("region", name="Results")).to_be_visible()
