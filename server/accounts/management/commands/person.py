"""Add a person, or give one a new password: ./clear-lens person NAME [--lead]."""

import getpass
import sys
from typing import Any

from django.contrib.auth.models import Group, User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser

from server.accounts.policy import ensure_roles


class Command(BaseCommand):
    help = "Add a person or set a new password."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name")
        parser.add_argument("--lead", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        password = getpass.getpass("Password: ") if sys.stdin.isatty() else sys.stdin.readline().rstrip("\n")
        user, _ = User.objects.get_or_create(username=options["name"])
        try:
            validate_password(password, user)
        except ValidationError as error:
            raise CommandError(" ".join(error.messages)) from None
        user.set_password(password)
        user.save()
        ensure_roles()
        user.groups.set(Group.objects.filter(name="lead" if options["lead"] else "technician"))
        self.stdout.write(f"{user.username} can sign in.")
