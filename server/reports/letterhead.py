"""The head of everything that leaves the shop: its logo, name and address."""

from html import escape

from server.shop.actions import the_shop
from server.shop.logo import logo_address

LOGO_STYLE = ".logo { max-height: 14mm; max-width: 60mm; display: block; margin-bottom: 1.5mm }"


def letterhead_lines() -> list[str]:
    shop = the_shop()
    return [line for line in (shop.name, *shop.address.splitlines()) if line.strip()]


def letterhead_html() -> str:
    """Logo and lines; empty for a shop that nobody described."""
    logo, lines = logo_address(), letterhead_lines()
    picture = f'<img class=logo alt="" src="{logo}">' if logo else ""
    words = f"<p class=small>{'<br>'.join(escape(line) for line in lines)}</p>" if lines else ""
    return picture + words
