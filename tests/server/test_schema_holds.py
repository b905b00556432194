"""The API does what its schema says: schemathesis makes requests from it and checks every answer against it."""

import json
from collections import Counter
from typing import Any

import schemathesis
from django.core.wsgi import get_wsgi_application
from hypothesis import HealthCheck, Phase, given, settings
from ninja import Schema
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from server.config.api import schema
from tests.server.helpers import Bench, InspectionCase, person

EXAMPLES = 3  # an operation
LEFT_OUT = {"/api/health", "/api/session"}  # no worker runs here; sessions are ended by it
BOUNDED = settings(
    max_examples=EXAMPLES,
    derandomize=True,
    deadline=None,
    database=None,
    phases=(Phase.generate,),
    suppress_health_check=list(HealthCheck),
)


class Conformance(InspectionCase):
    def test_every_operation_answers_as_declared(self) -> None:
        lead = Bench(person("boss", "lead"))
        lead.client.get("/jobs")
        cookies = {name: morsel.value for name, morsel in lead.client.cookies.items()}
        headers = {"X-CSRFToken": cookies["csrftoken"], "Host": "localhost"}
        app = get_wsgi_application()
        document = json.loads(json.dumps(schema(), default=str))
        document["servers"] = [{"url": "http://localhost"}]
        checks = [not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance]
        wrong: list[str] = []
        answers: Counter[int] = Counter()
        for result in schemathesis.openapi.from_dict(document).get_all_operations():
            operation = result.ok()
            if operation.path in LEFT_OUT:
                continue

            @BOUNDED
            @given(case=operation.as_strategy())
            def ask(case: Any) -> None:
                answer = case.call(app=app, headers=headers, cookies=cookies)
                answers[answer.status_code] += 1
                try:
                    case.validate_response(answer, checks=checks, headers=headers)
                except BaseException as failed:
                    wrong.append(f"{operation.label}: {answer.status_code} {str(failed)[:600]}")  # noqa: B023 - called at once

            ask()
        self.assertEqual(wrong[:3], [], f"{len(wrong)} in all")
        self.assertGreater(answers[200] + answers[201] + answers[204], 20, answers)  # not only refusals were checked
        self.assertLess(answers[401] + answers[403], 10, answers)

    def test_no_two_shapes_share_a_name(self) -> None:
        """The document has one shape a name: the second one would silently stand for both."""
        names = Counter(
            kind.__name__
            for kind in _below(Schema)
            if kind.__module__.startswith("server.") and "[" not in kind.__name__
        )
        self.assertEqual([name for name, count in names.items() if count > 1], [])


def _below(kind: type[Any]) -> set[type[Any]]:
    found = set(kind.__subclasses__())
    return found.union(*(_below(one) for one in found))
