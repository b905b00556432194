"""Every operation of the API asks who it is before it reads anything: the sweep walks the schema, so that no new one is forgotten."""

from typing import Any

from django.contrib.auth.models import User
from django.test import Client, TestCase

from server.config.api import schema
from tests.server.helpers import person

OPEN = {("get", "/api/health"), ("get", "/api/me"), ("post", "/api/session")}
OWN = {("delete", "/api/session")}
LEADS = {
    "addPerson",
    "changePerson",
    "changeShop",
    "dropLogo",
    "forkProcedure",
    "listPeople",
    "reopenJob",
    "resetRates",
    "retireProcedure",
    "retireProfile",
    "saveProcedure",
    "saveProfile",
    "setHouseRule",
    "setLogo",
}


def operations() -> list[tuple[str, str, dict[str, Any]]]:
    return [(m, path, told) for path, methods in schema()["paths"].items() for m, told in methods.items()]


def filled(path: str) -> str:
    while "{" in path:
        path = path[: path.index("{")] + "999999" + path[path.index("}") + 1 :]
    return path


class Sweep(TestCase):
    def asked(self, user: User | None, method: str, path: str) -> int:
        client = Client()
        if user:
            client.force_login(user)
        return client.generic(method.upper(), filled(path), "{}", "application/json").status_code

    def test_strangers_and_people_without_a_role_are_kept_out_of_all_but_the_open_ones(self) -> None:
        nobody = person("nobody", None)
        gone = person("gone")
        User.objects.filter(pk=gone.pk).update(is_active=False)
        for method, path, told in operations():
            if (method, path) in OPEN | OWN:
                continue
            self.assertEqual(self.asked(None, method, path), 401, told["operationId"])
            self.assertEqual(self.asked(nobody, method, path), 403, told["operationId"])
            self.assertEqual(self.asked(gone, method, path), 401, told["operationId"])

    def test_technicians_are_kept_out_of_what_leads_do_before_anything_is_read(self) -> None:
        tech, lead = person("tech"), person("boss", "lead")
        found = set()
        for method, path, told in operations():
            if (method, path) in OPEN | OWN:
                continue
            self.assertNotIn(self.asked(lead, method, path), (401, 403), told["operationId"])
            if self.asked(tech, method, path) == 403:
                found.add(told["operationId"])
        self.assertEqual(found, LEADS)
