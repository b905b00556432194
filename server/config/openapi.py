"""Write the API's OpenAPI document, from which the front end's types are generated: python -m server.config.openapi FILE."""

import json
import os
import sys
from pathlib import Path


def document() -> str:
    """The document as it is stored in web/openapi.json."""
    from server.config.api import schema  # the routers need Django to be set up

    return json.dumps(schema(), indent=1, default=str) + "\n"


def main() -> None:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.config.settings")
    import django  # after its settings are named

    django.setup()
    Path(sys.argv[1]).write_text(document(), encoding="utf-8")


if __name__ == "__main__":
    main()
