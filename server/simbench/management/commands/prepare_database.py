"""Before the server starts: migrate, make the roles and, for the demo, its people and panels, so that they can sign in at once."""

from typing import Any

from django.apps import apps
from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError
from django.db import connection
from django.db.migrations.loader import MigrationLoader

from server.accounts.policy import ensure_roles
from server.simbench.world import load_catalogue, read_world


def unknown_migrations() -> list[str]:
    """Changes of our tables that a newer version has made and this one does not know."""
    loader = MigrationLoader(connection)
    ours = {config.label for config in apps.get_app_configs() if config.name.startswith("server.")}
    return sorted(f"{app}.{name}" for app, name in loader.applied_migrations if app in ours and (app, name) not in loader.disk_migrations)


class Command(BaseCommand):
    help = "Migrate, make the roles, and the demo's people."

    def handle(self, *args: Any, **options: Any) -> None:
        newer = unknown_migrations()
        if newer:
            raise CommandError(
                f"This database was used by a newer version of Clear Lens ({newer[0]}). Update Clear Lens, or restore a backup of this version.")
        call_command("migrate", verbosity=0, interactive=False)
        ensure_roles()
        if settings.DEMO:
            load_catalogue(read_world())
