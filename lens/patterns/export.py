"""Patterns as files, for devices without a browser: a folder of PNGs with a manifest, or a ZIP to carry over, numbered in the order in which they are
shown and with a page that says how."""

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
HOW_TO = "00-how-to.txt"
_PAGE = """Test patterns for a panel of {width} x {height} pixels: {title}

1. Copy the pictures to a memory stick, a card, or the gallery of the device.
2. Brightness to the top. Night mode, adaptive tint, dark mode and energy saving off; charger in.
3. Open the first picture full screen, 1:1: no zoom, no fit to screen, no effects between pictures. The four corner marks lie in the corners of the
   screen and are sharp; where they are cut off or soft the viewer scales, and single pixels are not proven.
4. Dark room, lens wiped, camera straight in front, the whole panel in view. One photo of each picture, then on to the next:
{order}
5. Send the photos to the job at Inspect, in any order: the marks tell which is which, and that they are of this inspection.

Power off before any cover comes off. Cracked glass: eye protection, clear film over the glass. Local rules and licensed practice come first.
"""


def _files(panel: Panel, chosen: PatternSet, run: int, numbered: bool = False) -> Iterator[tuple[str, bytes]]:
    patterns = patterns_of(chosen)
    names = {p.id: f"{n:02d}-{p.id}.png" if numbered else f"{p.id}.png" for n, p in enumerate(patterns, 1)}
    for pattern in patterns:
        yield names[pattern.id], encode_png(render(panel, pattern, run))
    manifest = {
        "panel": {"width": panel.width, "height": panel.height},
        "set": chosen.title,
        "run": run,
        "patterns": [{"id": p.id, "file": names[p.id], "title": p.title} for p in patterns],
    }
    yield "manifest.json", (json.dumps(manifest, indent=2) + "\n").encode()
    if numbered:
        order = "\n".join(f"   {names[p.id]}: {p.title}" for p in patterns)
        page = _PAGE.format(width=panel.width, height=panel.height, title=chosen.title, order=order)
        yield HOW_TO, page.replace("\n", "\r\n").encode()


def numbered_files(panel: Panel, chosen: PatternSet, run: int) -> Iterator[tuple[str, bytes]]:
    """Name and content of what goes on a stick or into a gallery: the pictures in their order, the manifest, the page that says how."""
    return _files(panel, chosen, run, numbered=True)


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
    """The same as one ZIP for a stick or a gallery, which show by name; stored uncompressed since PNGs are compressed already."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_STORED) as archive:
        for name, data in numbered_files(panel, chosen or get_set(DEFAULT_SET), run):
            archive.writestr(name, data)
    return buffer.getvalue()
