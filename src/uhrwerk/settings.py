"""Settings: by option, environment (UHRWERK_...) or file (uhrwerk.toml in the data folder or where it is started)."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

from pydantic import Field, SecretStr
from pydantic_settings import BaseSettings, PydanticBaseSettingsSource, SettingsConfigDict, TomlConfigSettingsSource


def data_folder() -> Path:
    """The user's data folder (XDG Base Directory Specification)."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share") / "uhrwerk"


class Settings(BaseSettings):
    model_config = SettingsConfigDict(env_prefix="UHRWERK_", toml_file="uhrwerk.toml", extra="ignore")

    host: str = "127.0.0.1"
    port: int = Field(default=8377, ge=0, le=65535)
    data: Path = Field(default_factory=data_folder)
    key: SecretStr | None = Field(
        default=None, min_length=8, description="access key; a new random one at each start where none is set"
    )
    build_limit: float = Field(default=30.0, gt=0, description="seconds that one solid may take")

    @classmethod
    def settings_customise_sources(
        cls, settings_cls: type[BaseSettings], init_settings: PydanticBaseSettingsSource,
        env_settings: PydanticBaseSettingsSource, dotenv_settings: PydanticBaseSettingsSource,
        file_secret_settings: PydanticBaseSettingsSource,
    ) -> tuple[Any, ...]:  # fmt: skip
        return init_settings, env_settings, TomlConfigSettingsSource(settings_cls)
