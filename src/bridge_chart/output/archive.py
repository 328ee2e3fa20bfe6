"""Several texts in one ZIP."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Mapping


def archive_of(files: Mapping[str, str]) -> bytes:
    """Each text under its name.

    >>> data = archive_of({"a.txt": "one"})
    >>> zipfile.ZipFile(io.BytesIO(data)).read("a.txt")
    b'one'
    """
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, text in files.items():
            archive.writestr(name, text)
    return out.getvalue()
