"""Write the API's OpenAPI document, from which the front end's types are generated."""

import json
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandParser


class Command(BaseCommand):
    help = "Write the OpenAPI document."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file")

    def handle(self, *args: Any, **options: Any) -> None:
        from server.config.api import schema  # the routers need the apps to be ready
        Path(options["file"]).write_text(json.dumps(schema(), indent=1, default=str) + "\n")
