"""The printed paper of the made-up check: a plain PDF of four pages, written by hand."""

from __future__ import annotations

from bridge_chart.demo.answers import LETTERS, OPTIONS, TITLES

PAGE_OF = 8
"""Questions on a page."""
TOP, STEP = 780, 22
FONT = "<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica /Encoding /WinAnsiEncoding >>"


def check_paper(form: str) -> bytes:
    """The paper of a form, a line for each question and each of its options."""
    pages = [TITLES[at : at + PAGE_OF] for at in range(0, len(TITLES), PAGE_OF)]
    drawn = [_page(form, n, titles) for n, titles in enumerate(pages)]
    parts = ["<< /Type /Catalog /Pages 2 0 R >>",
             f"<< /Type /Pages /Count {len(drawn)} /Kids [{_kids(len(drawn))}] >>",
             FONT]  # fmt: skip
    for n, content in enumerate(drawn):
        parts.append(
            "<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] "
            f"/Resources << /Font << /F1 3 0 R >> >> /Contents {5 + 2 * n} 0 R >>"
        )
        parts.append(f"<< /Length {len(content)} >>\nstream\n{content}\nendstream")
    return _file(parts)


def _kids(pages: int) -> str:
    return " ".join(f"{4 + 2 * n} 0 R" for n in range(pages))


def _page(form: str, page: int, titles: tuple[str, ...]) -> str:
    lines = [(18, f"Harbour check, winter 2026, form {form}"), (11, f"Page {page + 1}")]
    for at, title in enumerate(titles):
        name = f"Q{page * PAGE_OF + at + 1}"
        lines.append((13, f"{name}  {title}"))
        says = OPTIONS.get(name)
        if says:
            told = zip(LETTERS, says, strict=True)
            lines.append((11, "      ".join(f"{letter}  {text}" for letter, text in told)))
    drawn, y = [], TOP
    for size, text in lines:
        drawn.append(f"BT /F1 {size} Tf 60 {y} Td ({_escaped(text)}) Tj ET")
        y -= STEP + size
    return "\n".join(drawn)


def _escaped(text: str) -> str:
    for sign in "\\()":
        text = text.replace(sign, f"\\{sign}")
    return text


def _file(parts: list[str]) -> bytes:
    """The objects as a file, with the table of where each begins."""
    out = b"%PDF-1.4\n"
    starts = []
    for n, part in enumerate(parts):
        starts.append(len(out))
        out += f"{n + 1} 0 obj\n".encode() + part.encode("cp1252") + b"\nendobj\n"
    table = len(out)
    out += f"xref\n0 {len(parts) + 1}\n0000000000 65535 f \n".encode()
    out += b"".join(f"{at:010d} 00000 n \n".encode() for at in starts)
    size = len(parts) + 1
    return out + f"trailer << /Size {size} /Root 1 0 R >>\nstartxref\n{table}\n%%EOF\n".encode()
