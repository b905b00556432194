"""Does this program fit the database that it works on? Several machines are not updated in the same minute."""

from django.apps import apps
from django.db import connection
from django.db.migrations.loader import MigrationLoader


def _ours() -> set[str]:
    return {config.label for config in apps.get_app_configs() if config.name.startswith("server.")}


def newer_changes() -> list[str]:
    """Changes of our tables that a newer version has made and this one does not know."""
    loader, ours = MigrationLoader(connection), _ours()
    return sorted(
        f"{app}.{name}"
        for app, name in loader.applied_migrations
        if app in ours and (app, name) not in loader.disk_migrations
    )


def missing_changes() -> list[str]:
    """Changes of our tables that this version knows and nobody has made yet."""
    loader, ours = MigrationLoader(connection), _ours()
    return sorted(
        f"{app}.{name}"
        for app, name in loader.disk_migrations
        if app in ours and (app, name) not in loader.applied_migrations
    )


def misfit() -> str:
    """Why this program must not touch this database, empty when it may."""
    newer, missing = newer_changes(), missing_changes()
    if newer:
        return f"The database belongs to a newer version of Clear Lens ({newer[0]}). Update Clear Lens on this machine."
    if missing:
        return f"The database belongs to an older version of Clear Lens ({missing[0]} is missing). Update the machine that runs the bench first."
    return ""
