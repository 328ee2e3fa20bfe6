"""One typed table of settings, kept in BRIDGE_HOME/settings.toml; unknown keys stop start-up."""

from __future__ import annotations

import os
import secrets
import tomllib
from dataclasses import asdict, dataclass, fields, replace
from pathlib import Path

from bridge_chart.terms.errors import BadSettings
from bridge_chart.terms.people import ROLES

FILE_NAME = "settings.toml"
SNAPSHOT_LAYOUT = 3
"""Raised when the layout of the snapshot's files changes."""


@dataclass(frozen=True)
class Settings:
    """What this instance runs with. `home` is the folder and is not written into the file."""

    home: Path
    database_url: str = ""
    owner_url: str = ""
    cluster: str = ""
    cluster_port: int = 0
    port: int = 8400
    workers: int = 2
    threads: int = 4
    secret_key: str = ""
    session_minutes: int = 60
    session_hours: int = 12
    secure_cookie: bool = False
    trusted_proxies: str = ""
    public_address: str = ""
    codes_for: str = ""
    provider_issuer: str = ""
    provider_client: str = ""
    provider_secret: str = ""
    provider_name: str = "the district's sign-on"
    provider_login_claim: str = "preferred_username"
    provider_role_claim: str = "role"
    provider_roles: str = ""
    provider_schools_claim: str = "schools"
    provider_teachers_claim: str = "teaches_as"
    backup_folder: str = ""
    backups_kept: int = 14
    snapshots_kept: int = 4
    upload_megabytes: int = 512
    large_file_kilobytes: int = 2048
    safe_writes: bool = True

    @property
    def codes_roles(self) -> frozenset[str]:
        """The roles that have to sign in with one-time codes."""
        return frozenset(one.strip() for one in self.codes_for.split(",") if one.strip())

    @property
    def owner(self) -> str:
        """How whoever owns the tables reaches them: for migrations, restores and erasures."""
        return self.owner_url or self.database_url

    @property
    def snapshots(self) -> Path:
        """By layout of the files, so that those of another program version are never read."""
        return self.home / "snapshots" / f"layout-{SNAPSHOT_LAYOUT}"

    def save(self) -> None:
        """Write the file, whole or not at all, readable by its owner only (it holds secrets)."""
        self.home.mkdir(parents=True, exist_ok=True)
        lines = ["# Settings of this Bridge Chart instance. An unknown key stops start-up."]
        for key, value in asdict(self).items():
            if key != "home":
                text = str(value).lower() if isinstance(value, bool) else repr(value)
                lines.append(f"{key} = {text}")
        unfinished = self.home / f".{FILE_NAME}"
        unfinished.touch(mode=0o600, exist_ok=True)
        unfinished.write_text("\n".join(lines) + "\n", encoding="utf-8")
        os.replace(unfinished, self.home / FILE_NAME)


def home_folder() -> Path:
    """BRIDGE_HOME, or .bridge beside the program's own folder."""
    given = os.environ.get("BRIDGE_HOME")
    return Path(given).absolute() if given else Path.cwd() / ".bridge"


def load_settings(home: Path | None = None) -> Settings:
    """Read the settings of `home`; raise BadSettings on an unknown key or a wrong type."""
    home = home or home_folder()
    path = home / FILE_NAME
    if not path.exists():
        raise BadSettings(
            f"There is no instance in {home}.", next_step="Run ./bridge init (or ./bridge demo)."
        )
    try:
        given = tomllib.loads(path.read_text(encoding="utf-8"))
    except (tomllib.TOMLDecodeError, UnicodeDecodeError) as error:
        raise BadSettings(f"{path} is not valid TOML: {error}.") from error
    types = {f.name: type(f.default) for f in fields(Settings) if f.name != "home"}
    for key, value in given.items():
        if key not in types:
            raise BadSettings(
                f"{path} has the unknown key “{key}”.",
                next_step=f"Keys are: {', '.join(types)}.",
            )
        if type(value) is not types[key]:
            raise BadSettings(f"{path}: “{key}” must be {types[key].__name__}.")
    made = Settings(home=home, **given)
    unknown = made.codes_roles - set(ROLES)
    if unknown:
        raise BadSettings(f"{path}: codes_for names the role “{min(unknown)}”, which is none.",
                          next_step=f"Roles are: {', '.join(ROLES)}.")  # fmt: skip
    return made


def new_settings(home: Path) -> Settings:
    """Settings of a new instance, with a secret of its own."""
    return replace(Settings(home=home), secret_key=secrets.token_urlsafe(32))
