"""The pane as SVG, for print: the panel in its true proportions with what was found on it."""

from html import escape

from lens.records import Inspection
from lens.records.findings import NOT_OF_THE_PANEL
from lens.touch import TouchResult

WIDTH = 400
# Marks differ by shape: the same list stands on the bench in web/src/pane/marks.ts.
SHAPES = {
    "dead_pixel": "square",
    "dark_subpixel": "small-square",
    "bright_pixel": "diamond",
    "bright_subpixel": "small-diamond",
    "cluster": "ring",
}


def _mark(kind: str, x: float, y: float, w: float, h: float) -> str:
    shape = SHAPES.get(kind)
    if kind in NOT_OF_THE_PANEL:
        return f'<path d="M{x - 4:.1f} {y - 4:.1f}l8 8m0 -8l-8 8" stroke="#777" fill="none"/>'
    if shape == "ring":
        return f'<circle cx="{x:.1f}" cy="{y:.1f}" r="9" fill="none" stroke="#111" stroke-width="1.5" stroke-dasharray="3 2"/>'
    if shape in ("square", "small-square"):
        r = 4 if shape == "square" else 2.6
        return f'<rect x="{x - r:.1f}" y="{y - r:.1f}" width="{2 * r}" height="{2 * r}" fill="#111"/>'
    if shape in ("diamond", "small-diamond"):
        r = 5 if shape == "diamond" else 3.4
        return (
            f'<path d="M{x:.1f} {y - r:.1f}l{r} {r}l-{r} {r}l-{r} -{r}z" fill="#fff" stroke="#111" stroke-width="1.5"/>'
        )
    box = f'x="{x - w / 2:.1f}" y="{y - h / 2:.1f}" width="{max(w, 2):.1f}" height="{max(h, 2):.1f}"'
    if kind in ("mura", "discoloration", "bleed", "bright_zone"):
        return (
            f'<rect {box} fill="none" stroke="#111" stroke-dasharray="{"1 3" if kind == "discoloration" else "4 2"}"/>'
        )
    return f'<rect {box} fill="#111" fill-opacity="0.35" stroke="#111"/>'


def pane_svg(title: str, inspection: Inspection | None, width: int, height: int) -> str:
    """A figure of one inspection, or of an empty pane when there is none."""
    scale = WIDTH / width
    tall = height * scale
    parts = [
        f'<svg viewBox="-2 -2 {WIDTH + 4} {tall + 4:.1f}" role="img"><title>{escape(title)}</title>',
        f'<rect width="{WIDTH}" height="{tall:.1f}" fill="#f2f2f2" stroke="#333"/>',
    ]
    if inspection is not None:
        columns = 48
        rows = max(1, round(columns * height / width))
        cell_w, cell_h = WIDTH / columns, tall / rows
        for column, row, share in inspection.unproven_cells:
            if share < 0.5:
                parts.append(
                    f'<rect x="{column * cell_w:.1f}" y="{row * cell_h:.1f}" width="{cell_w:.1f}" height="{cell_h:.1f}" fill="#bbb"/>'
                )
        for f in inspection.findings:
            parts.append(_mark(f.kind, (f.x + 0.5) * scale, (f.y + 0.5) * scale, f.w * scale, f.h * scale))
    else:
        parts.append(
            f'<text x="{WIDTH / 2}" y="{tall / 2:.0f}" text-anchor="middle" font-size="14" fill="#555">not photographed</text>'
        )
    return "".join([*parts, "</svg>"])


def touch_svg(title: str, result: TouchResult, width: int, height: int) -> str:
    """A figure of one touch session: dead cells filled, such as answer at times striped, unproven ones grey, dotted where silent once, phantoms as
    rings."""
    scale = WIDTH / width
    tall = height * scale
    cell_w, cell_h = WIDTH / result.cells.columns, tall / result.cells.rows
    parts = [
        f'<svg viewBox="-2 -2 {WIDTH + 4} {tall + 4:.1f}" role="img"><title>{escape(title)}</title>',
        f'<rect width="{WIDTH}" height="{tall:.1f}" fill="#f2f2f2" stroke="#333"/>',
    ]

    def cell(column: int, row: int, fill: str) -> str:
        return f'<rect x="{column * cell_w:.1f}" y="{row * cell_h:.1f}" width="{cell_w:.1f}" height="{cell_h:.1f}" {fill}/>'

    parts += [cell(column, row, 'fill="#bbb"') for column, row in result.unproven_cells]
    parts += [
        cell(column, row, 'fill="none" stroke="#111" stroke-dasharray="1 2"') for column, row in result.suspected_cells
    ]
    for zone in result.dead_zones:
        fill = (
            'fill="#111" fill-opacity="0.3" stroke="#111" stroke-dasharray="2 2"'
            if zone.intermittent
            else 'fill="#111"'
        )
        parts += [cell(column, row, fill) for column, row in zone.cells]
    for one in result.phantom:
        parts.append(
            f'<circle cx="{(one.x + 0.5) * scale:.1f}" cy="{(one.y + 0.5) * scale:.1f}" r="7" fill="none" stroke="#111" stroke-width="2"/>'
        )
    return "".join([*parts, "</svg>"])
