"""`backup` and `restore` at the command line: another home with the same record."""

from __future__ import annotations

import json
import shutil
import tempfile
from pathlib import Path

from tests.cli.warm import command

from bridge_chart.cli.instance import make_instance


def test_a_record_is_backed_up_and_is_back_in_another_home() -> None:
    parent = Path(tempfile.mkdtemp(prefix="bridge-backup-"))
    parent.chmod(0o755)
    home, other, file = parent / "home", parent / "other", parent / "b.zip"
    question = parent / "q.json"
    question.write_text(json.dumps({"what": [{"assessment": "Quiz"}], "show": "table"}))
    try:
        assert "/welcome#" in command(home, "init").stdout
        people = parent / "people.csv"
        people.write_text("Number,School,Year\n" + "".join(f"{n:03d},Tarn,7\n" for n in range(20)))
        marks = parent / "marks.csv"
        marks.write_text("Number,Score\n" + "".join(f"{n:03d},{n}\n" for n in range(20)))
        command(home, "import", "roster", str(people), "--year", "2025-26")
        command(home, "import", "results", str(marks), "--test", "Quiz", "--date", "2026-05-01")
        done = command(home, "backup", str(file))
        assert done.returncode == 0, done.stderr
        assert "restored beside, all alike" in done.stderr
        refused = command(home, "restore", str(file))
        assert refused.returncode == 74
        assert "It was not touched" in refused.stderr
        # A restore that was ended half-way leaves an instance that holds nothing.
        make_instance(other)
        done = command(other, "restore", str(file))
        assert done.returncode == 0, done.stderr
        answers = [
            command(at, "ask", str(question), "--format", "json").stdout for at in (home, other)
        ]
        assert json.loads(answers[0])["body"] == json.loads(answers[1])["body"]
        assert "restored the record" in command(other, "audit").stdout
    finally:
        for at in (home, other):
            command(at, "stop")
        shutil.rmtree(parent, ignore_errors=True)
