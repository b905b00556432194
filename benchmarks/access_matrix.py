"""Who may do what: every operation of the API and of the pages by code, asked for by everybody who might."""

import json
from collections import Counter
from typing import Any

from benchmarks.client import PASSWORD, Caller, code, new_job
from benchmarks.mutations import OPENAPI
from benchmarks.shop import Shop

OPEN = {("get", "/api/health"), ("get", "/api/me"), ("post", "/api/session")}
OWN = {("delete", "/api/session")}  # who is signed in may sign out, whatever the role
LEADS = {
    ("post", "/api/jobs/{job_id}/reopen"),
    ("get", "/api/people"),
    ("post", "/api/people"),
    ("patch", "/api/people/{person_id}"),
    ("post", "/api/rates/reset"),
    ("put", "/api/profiles/{profile_id}"),
    ("delete", "/api/profiles/{profile_id}"),
    ("put", "/api/house-rules/{name}"),
    ("put", "/api/shop"),
}
PAGES = {
    "glass": ("/g/{}/state", "/g/{}/touch", "/g/{}/white.png", "/g/{}/report", "/g/{}/step"),
    "snap": ("/s/{}/state", "/s/{}/step", "/s/{}/photos"),
}
POSTED = ("report", "step", "photos")
NAMES = {"without a role": "Nobody", "technician": "Tech", "lead": "Ada"}


def _fill(path: str) -> str:
    for name, text in (("stage", "inspect"), ("gate_id", "open"), ("profile_id", "nothing")):
        path = path.replace("{%s}" % name, text)  # noqa: UP031 - braces of its own
    while "{" in path:
        path = path[: path.index("{")] + "999999" + path[path.index("}") + 1 :]
    return path


def _operations() -> list[tuple[str, str, dict[str, Any]]]:
    document = json.loads(OPENAPI.read_text())
    return [(method, path, told) for path, methods in document["paths"].items() for method, told in methods.items()]


def api_matrix(shop: Shop) -> list[str]:
    """Operations that let somebody in, or keep somebody out, who should not be; printed by kind of person."""
    url = shop.told["url"]
    people = {
        "stranger": Caller(url),
        **{kind: Caller(url).sign_in(name) for kind, name in NAMES.items()},
        "disabled": Caller(url).sign_in("Gone"),
    }
    shop.run("person", "Gone", "--disable")
    wrong, counts = [], {name: Counter[str]() for name in people}
    for method, path, _ in _operations():
        for name, caller in people.items():
            if (method, path) == ("delete", "/api/session"):
                caller = Caller(url).sign_in(NAMES[name]) if name in NAMES else Caller(url)
            if (method, path) == ("post", "/api/session"):
                continue
            status, _told = caller.json(method.upper(), _fill(path), {} if method in ("post", "put", "patch") else None)
            let_in = status not in (401, 403)
            signed_in = name in NAMES
            wanted = (
                (method, path) in OPEN
                or ((method, path) in OWN and signed_in)
                or name == "lead"
                or (name == "technician" and (method, path) not in LEADS)
            )
            if let_in != wanted:
                wrong.append(f"{name}: {method.upper()} {path} answers {status}")
            counts[name]["let in" if let_in else "kept out"] += 1
    print(f"\n{'operations of the API':28s} let in   kept out")
    for name, count in counts.items():
        print(f"{name:28s} {count['let in']:6d} {count['kept out']:10d}")
    return wrong


def code_matrix(shop: Shop) -> list[str]:
    """Pages by code: which of all kinds of codes open what."""
    url = shop.told["url"]
    bench, tech = Caller(url).sign_in("Ada"), Caller(url).sign_in("Late")
    job, run = new_job(bench, "Own")
    _, other = new_job(bench, "Other")
    closed_job, closed = new_job(bench, "Closed")
    codes: dict[str, dict[str, str]] = {}
    for kind in PAGES:
        expired, revoked = code(bench, run, kind), bench.ok("POST", f"/api/runs/{run}/access", {"kind": kind})
        shop.sql(f"update inspections_access set expires_at = now() - interval '1 second' where code = '{expired}'")
        bench.ok("DELETE", f"/api/access/{revoked['id']}")
        codes[kind] = {
            "own": code(bench, run, kind),
            "of another job": code(bench, other, kind),
            "expired": expired,
            "revoked": revoked["url"].rsplit("/", 1)[1],
            "forged": "a" * 13,
            "of a closed job": code(bench, closed, kind),
            "of a disabled person": code(tech, run, kind),
        }
    bench.ok("POST", f"/api/jobs/{closed_job}/hand-over", {"because": "A job of the benchmark."})
    shop.run("person", "Late", "--disable")
    wrong = []
    print(f"\n{'code':24s} {'device page':>12s} {'phone camera':>13s}   (opens its own kind; opens the other kind)")
    for name in codes["glass"]:
        cells = []
        for kind, paths in PAGES.items():
            opened = {}
            for page, made in (
                (kind, codes[kind][name]),
                ("other kind", codes["snap" if kind == "glass" else "glass"][name]),
            ):
                answers = []
                for path in paths:
                    posted = path.endswith(POSTED)
                    answers.append(
                        Caller(url).json("POST" if posted else "GET", path.format(made), {} if posted else None)[0]
                    )
                opened[page] = all(status == 410 for status in answers)
                if page == kind and name in ("own", "of another job"):
                    title = Caller(url).json("GET", paths[0].format(made))[1]["job"]
                    if title != ("Own" if name == "own" else "Other"):
                        wrong.append(f"{kind} code {name} opens {title}")
            should = name in ("own", "of another job")
            if opened[kind] == should or not opened["other kind"]:
                wrong.append(f"{kind} code {name}: {opened}")
            cells.append(f"{'no' if opened[kind] else 'yes'}; {'no' if opened['other kind'] else 'yes'}")
        print(f"{name:24s} {cells[0]:>12s} {cells[1]:>13s}")
    return wrong


def print_access(shop: Shop) -> bool:
    """Both tables; False when somebody is let in or kept out who should not be."""
    for name in ("Tech", "Nobody", "Gone", "Late"):
        shop.run("person", name, given=f"{PASSWORD}\n")
    shop.sql("delete from auth_user_groups where user_id = (select id from auth_user where username = 'Nobody')")
    wrong = api_matrix(shop) + code_matrix(shop)
    print(f"not as wanted: {len(wrong)}   (wanted: 0)")
    for line in wrong[:20]:
        print(f"  {line}")
    return not wrong
