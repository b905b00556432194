"""What the front end takes from the core and the API, written into web/: python -m server.config.openapi.

``openapi.json`` is the API's document, of which its types are generated; ``vocabulary.gen.ts`` the tables of kinds, stations and stages, which
the panel map draws without asking the server first.
"""

import json
import os
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from lens.matching import VALUE_SOURCES
from lens.records import KINDS, STAGES, START_CONSENTS, STATIONS, WAITING, Record

TABLES: Sequence[tuple[str, Mapping[Any, Record]]] = (
    ("KINDS", KINDS),
    ("STATIONS", STATIONS),
    ("STAGES", STAGES),
    ("WAITING", WAITING),
    ("START_CONSENTS", START_CONSENTS),
    ("VALUE_SOURCES", VALUE_SOURCES),
)
WEB = Path(__file__).parents[2] / "web"
OPENAPI, VOCABULARY = WEB / "openapi.json", WEB / "src" / "pane" / "vocabulary.gen.ts"


def document() -> str:
    """The document as it is stored in web/openapi.json."""
    from server.config.api import schema  # the routers need Django to be set up

    return json.dumps(schema(), indent=1, default=str) + "\n"


def vocabulary() -> str:
    """The core's tables as TypeScript, in the shape that /api/vocabulary serves."""
    return "".join(
        [
            "// Made of the core's tables by: python -m server.config.openapi. Do not edit.\n",
            *(_constant(name, table) for name, table in TABLES),
        ]
    )


def _constant(name: str, table: Mapping[Any, Record]) -> str:
    rows = {key: row.model_dump(mode="json", exclude={"id"}) for key, row in table.items()}
    return f"\nexport const {name} = {json.dumps(rows, indent=2)} as const;\n"


def main() -> None:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.config.settings")
    import django  # after its settings are named

    django.setup()
    OPENAPI.write_text(document(), encoding="utf-8")
    VOCABULARY.write_text(vocabulary(), encoding="utf-8")


if __name__ == "__main__":
    main()
