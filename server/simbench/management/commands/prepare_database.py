"""Before the server starts: migrate, make the roles and, for the demo, its people and panels, so that they can sign in at once."""

from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError

from server.accounts.policy import ensure_roles
from server.bench.summaries import mark_older_rules
from server.common.versions import newer_changes
from server.simbench.world import load_catalogue, read_world


class Command(BaseCommand):
    help = "Migrate, make the roles, and the demo's people."

    def handle(self, *args: Any, **options: Any) -> None:
        newer = newer_changes()
        if newer:
            raise CommandError(
                f"This database was used by a newer version of Clear Lens ({newer[0]}). Update Clear Lens, or restore a backup of this version."
            )
        call_command("migrate", verbosity=0, interactive=False)
        ensure_roles()
        mark_older_rules()
        if settings.DEMO:
            load_catalogue(read_world())
