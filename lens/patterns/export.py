"""Patterns as files, for devices without a browser: a folder or a ZIP of PNGs with a manifest."""

import io
import json
import zipfile
from collections.abc import Iterator
from pathlib import Path

from lens.errors import BadInput
from lens.panel import Panel
from lens.patterns.render import encode_png, render
from lens.patterns.sets import PatternSet, get_set, patterns_of

DEFAULT_SET = "standard"


def _files(panel: Panel, chosen: PatternSet, run: int) -> Iterator[tuple[str, bytes]]:
    patterns = patterns_of(chosen)
    for pattern in patterns:
        yield f"{pattern.id}.png", encode_png(render(panel, pattern, run))
    manifest = {
        "panel": {"width": panel.width, "height": panel.height},
        "set": chosen.title,
        "run": run,
        "patterns": [{"id": p.id, "file": f"{p.id}.png", "title": p.title} for p in patterns],
    }
    yield "manifest.json", (json.dumps(manifest, indent=2) + "\n").encode()


def write_folder(panel: Panel, folder: Path, chosen: PatternSet | None = None, run: int = 0) -> list[Path]:
    """Write the set into ``folder`` (made when missing) and return the files; raises BadInput when it cannot."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        written = []
        for name, data in _files(panel, chosen or get_set(DEFAULT_SET), run):
            (folder / name).write_bytes(data)
            written.append(folder / name)
    except OSError as error:
        raise BadInput(f"Cannot write the patterns to '{folder}': {error.strerror}. Choose another folder.") from error
    return written


def zip_bytes(panel: Panel, chosen: PatternSet | None = None, run: int = 0) -> bytes:
    """The same files as one ZIP, stored uncompressed since PNGs are compressed already."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_STORED) as archive:
        for name, data in _files(panel, chosen or get_set(DEFAULT_SET), run):
            archive.writestr(name, data)
    return buffer.getvalue()
