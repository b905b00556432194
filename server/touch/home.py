"""The page for an owner at home with one phone: the touch test on the phone itself, and how to get pictures of a screen that takes them."""

from functools import cache
from pathlib import Path

from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import render
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_http_methods

from lens.errors import BadInput
from lens.tables import parse
from lens.touch import Outline
from server.common.errors import Conflict
from server.common.qr import qr_svg
from server.inspections.codes import open_access
from server.shop.actions import the_shop, zone
from server.touch.actions import is_cracked_at, start_session

SOAK_S, FINGERS = 30.0, 2  # hands off as on the bench; what two thumbs of a person alone can do


@cache
def home_texts() -> dict[str, dict[str, str]]:
    """The page's words by language; every language has the same ones (a test says so)."""
    file = Path(__file__).parent / "home_texts.yaml"
    texts: dict[str, dict[str, str]] = parse(file.read_text("utf-8"), file.name)
    return texts


@csrf_exempt  # no cookie is used: the code in the address is the permission
@require_http_methods(["GET", "HEAD", "POST"])
def home_page(request: HttpRequest, code: str) -> HttpResponse:
    """The page; posted with what the finger wears, it starts the touch test and leads to it."""
    shop = the_shop()
    words = home_texts().get(shop.language, home_texts()["en"])
    access = open_access(code, "home")
    if access is None:
        return _page(request, {"words": words, "shop": shop.name, "problem": words["gone"]}, 410)
    problem = ""
    if request.method == "POST":
        try:
            with_what = request.POST.get("drawn_with", "")
            start_session(access.made_by, access.run_id, SOAK_S, FINGERS, Outline(), with_what, "the owner at home")
            return HttpResponseRedirect(f"/g/{access.code}")
        except BadInput as refusal:
            problem = words["film_first"] if refusal.code == "cracked_glass" else refusal.message
        except Conflict:
            problem = words["closed"]
    camera = f"{shop.public_address}/s/{access.code}"
    told = {
        "words": words,
        "shop": shop.name,
        "job": access.run.job.title,
        "code": access.code,
        "until": f"{access.expires_at.astimezone(zone()):%Y-%m-%d %H:%M}",
        "cracked": is_cracked_at(access.run),
        "closed": access.run.job.closed_at is not None and access.run.stage != "recheck",
        "camera": camera,
        "camera_qr": qr_svg(camera),
        "problem": problem,
    }
    return _page(request, told, 422 if problem else 200)


def _page(request: HttpRequest, told: dict[str, object], status: int) -> HttpResponse:
    told["nonce"] = request.csp_nonce  # type: ignore[attr-defined]
    headers = {"Cache-Control": "no-store", "X-Robots-Tag": "noindex, nofollow"}
    answer = render(request, "touch/home.html", told, status=status)
    for name, value in headers.items():
        answer[name] = value
    return answer
