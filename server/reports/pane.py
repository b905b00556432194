"""The pane as SVG, for print: the panel in its true proportions with what was found on it."""

from html import escape

from lens.records import KINDS, Area, Inspection
from lens.touch import TouchResult

WIDTH = 400
MARK_SCALE = 0.4  # a mark's box of 48 units, of the figure's 400
PLAIN_AREA = Area(fill="#000", opacity=0.75)


def _extent(kind: str, x: float, y: float, w: float, h: float) -> str:
    """An extended finding's box: shaded where it is dark; on paper, bright and faint ones are outlined only."""
    area = KINDS[kind].mark.area or PLAIN_AREA
    opacity = area.opacity if area.fill == "#000" else 0
    dash = (
        f' stroke-dasharray="{" ".join(f"{float(part) / 3:.1f}" for part in area.dash.split())}"' if area.dash else ""
    )
    return (
        f'<rect x="{x - w / 2:.1f}" y="{y - h / 2:.1f}" width="{max(w, 2):.1f}" height="{max(h, 2):.1f}" '
        f'fill="#111" fill-opacity="{opacity * 0.6:.2f}" stroke="#111"{dash}/>'
    )


def _mark(kind: str, x: float, y: float, w: float, h: float) -> str:
    """A finding as the panel map on the screen draws it, in ink."""
    facts = KINDS[kind]
    box = _extent(kind, x, y, w, h) if facts.extended else ""
    if facts.family == "line":
        return box
    mark = facts.mark
    dash = ' stroke-dasharray="5 4"' if mark.dashed else ""
    ink = "#111" if facts.of_panel else "#777"
    return box + (
        f'<path transform="translate({x:.1f} {y:.1f}) scale({MARK_SCALE})" d="{mark.path}" '
        f'fill="{ink if mark.filled else "none"}" stroke="{ink}" stroke-width="3.4"{dash}/>'
    )


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
