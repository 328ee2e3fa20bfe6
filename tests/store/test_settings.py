"""Settings and cluster: what is wrong is told before anything starts."""

from __future__ import annotations

import shutil
import stat
import tempfile
from dataclasses import replace
from pathlib import Path

import pytest
from tests.support import quiet

from bridge_chart.store.cluster import cluster_runs, make_cluster
from bridge_chart.store.settings import Settings, home_folder, load_settings, new_settings
from bridge_chart.terms.errors import BadSettings, ClusterTrouble


def test_settings_come_back_as_they_were_saved(tmp_path: Path) -> None:
    made = replace(new_settings(tmp_path / "home"), port=9001, safe_writes=False)
    made.save()
    assert load_settings(made.home) == made
    mode = stat.S_IMODE((made.home / "settings.toml").stat().st_mode)
    assert mode == 0o600
    assert made.secret_key != new_settings(tmp_path).secret_key


@pytest.mark.parametrize(
    ("line", "says"),
    [("colour = 1", "unknown key “colour”"), ('port = "8400"', "“port” must be int"),
     ("safe_writes = 1", "“safe_writes” must be bool"), ("port = ", "not valid TOML"),
     ("workers = true", "“workers” must be int")],
)  # fmt: skip
def test_wrong_settings_stop_start_up(tmp_path: Path, line: str, says: str) -> None:
    (tmp_path / "settings.toml").write_text(line + "\n", encoding="utf-8")
    with pytest.raises(BadSettings, match=says):
        load_settings(tmp_path)


def test_no_instance_says_how_to_make_one(tmp_path: Path) -> None:
    with pytest.raises(BadSettings, match="no instance") as caught:
        load_settings(tmp_path)
    assert "./bridge init" in caught.value.next_step


def test_the_home_is_what_the_environment_says(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("BRIDGE_HOME", str(tmp_path))
    assert home_folder() == tmp_path
    monkeypatch.delenv("BRIDGE_HOME")
    assert home_folder().name == ".bridge"


def test_a_cluster_never_lands_on_an_existing_folder() -> None:
    home = Path(tempfile.mkdtemp(prefix="bridge-test-"))
    home.chmod(0o755)
    (home / "cluster").mkdir()
    try:
        with pytest.raises(ClusterTrouble, match="exists already"):
            make_cluster(new_settings(home), quiet)
        assert list((home / "cluster").iterdir()) == []
    finally:
        shutil.rmtree(home)


def test_the_sessions_cluster_runs_on_loopback_with_a_password(cluster: Settings) -> None:
    assert cluster_runs(cluster)
    assert "@127.0.0.1:" in cluster.database_url
    host_rules = Path(cluster.cluster) / "pg_hba.conf"
    rules = [line.split() for line in host_rules.read_text().splitlines()
             if line and not line.startswith("#")]  # fmt: skip
    assert {rule[-1] for rule in rules} == {"scram-sha-256"}
