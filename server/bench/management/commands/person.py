"""./clear-lens person NAME: add a person, set a new password, change the role, end or give back the access."""

import getpass
import sys
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from lens.errors import BadInput
from server.accounts.policy import Role
from server.bench.people_actions import put_person


class Command(BaseCommand):
    help = "Add or change a person. A known person keeps the role unless one is named."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name")
        role = parser.add_mutually_exclusive_group()
        role.add_argument("--lead", action="store_true")
        role.add_argument("--technician", action="store_true")
        access = parser.add_mutually_exclusive_group()
        access.add_argument("--disable", action="store_true", help="end the access: sessions, codes and streams too")
        access.add_argument("--enable", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        role: Role | None = "lead" if options["lead"] else "technician" if options["technician"] else None
        active = False if options["disable"] else True if options["enable"] else None
        try:
            if active is not None:
                user, _ = put_person(options["name"], None, role, active)
            else:
                user, _ = put_person(options["name"], self._password(), role)
        except BadInput as problem:
            raise CommandError(problem.message, returncode=2) from None
        self.stdout.write(
            f"{user.username} can sign in." if user.is_active else f"{user.username} cannot sign in any more."
        )

    @staticmethod
    def _password() -> str:
        return getpass.getpass("Password: ") if sys.stdin.isatty() else sys.stdin.readline().rstrip("\n")
