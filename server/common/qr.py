"""Addresses as QR codes, drawn as SVG."""

import io

import segno


def qr_svg(text: str) -> str:
    """Dark on light whatever the page's theme, or readers fail."""
    out = io.BytesIO()
    segno.make(text, micro=False, error="m").save(
        out, kind="svg", scale=1, border=3, xmldecl=False, dark="#111", light="#fff", omitsize=True
    )
    return out.getvalue().decode()
