"""Django's own commands: python -m server.manage COMMAND."""

import os
import sys


def main() -> None:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.config.settings")
    from django.core.management import execute_from_command_line  # settings must be named first

    execute_from_command_line(sys.argv)


if __name__ == "__main__":
    main()
