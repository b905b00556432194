"""./clear-lens import-job FILE"""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from lens.errors import BadInput
from server.jobfiles.actions import import_job


class Command(BaseCommand):
    help = "Make the job of a file here."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file")

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            job = import_job(Path(options["file"]).absolute())
        except BadInput as problem:
            raise CommandError(problem.message, returncode=2) from None
        self.stdout.write(f"Taken as job {job.pk}, '{job.title}'.")
