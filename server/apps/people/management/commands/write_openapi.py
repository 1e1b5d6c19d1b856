"""openapi.json, from which the client's types are made."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from config.api import api
from django.core.management.base import BaseCommand, CommandParser


def openapi_text() -> str:
    """The document as it is checked in."""
    return json.dumps(api.get_openapi_schema(), indent=1, ensure_ascii=False, sort_keys=True) + "\n"


class Command(BaseCommand):
    """Write the OpenAPI document to a file."""

    help = "Write the OpenAPI document."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        options["file"].write_text(openapi_text())
