"""./clear-lens export-job N FILE"""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from lens.errors import BadInput
from server.jobfiles.actions import export_job


class Command(BaseCommand):
    help = "Write one job with its photos and its record to a file."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("number", type=int)
        parser.add_argument("file")

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            self.stdout.write(export_job(options["number"], Path(options["file"]).absolute()))
        except BadInput as problem:
            raise CommandError(problem.message, returncode=2) from None
