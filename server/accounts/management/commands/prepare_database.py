"""Migrate, make the roles, and take back what a killed worker left behind."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand

from server.accounts.policy import ensure_roles


class Command(BaseCommand):
    help = "Migrate and make the roles."

    def handle(self, *args: Any, **options: Any) -> None:
        call_command("migrate", verbosity=0, interactive=False)
        ensure_roles()
