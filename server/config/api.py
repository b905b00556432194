"""The API: routers of all apps, one shape for every failure."""

from typing import Any

from ninja import NinjaAPI, Schema

from server.accounts.api import router as accounts_router
from server.accounts.doors import look
from server.bench.choice_api import router as choice_router
from server.bench.day_api import router as day_router
from server.bench.incoming_api import router as incoming_router
from server.bench.list_api import router as bench_router
from server.bench.people_api import router as people_router
from server.bench.profiles_api import router as profiles_router
from server.bench.rates_api import router as rates_router
from server.bench.rules_api import router as rules_router
from server.bench.vocabulary_api import router as vocabulary_router
from server.common.errors import install_handlers
from server.common.parsing import StrictParser
from server.fitting.api import router as fitting_router
from server.fitting.own_api import router as own_procedures_router
from server.inspections.api import router as inspections_router
from server.inspections.rectified_api import router as rectified_router
from server.parts.api import router as parts_router
from server.parts.registers_api import router as registers_router
from server.proving.api import router as proving_router
from server.purchasing.api import router as purchasing_router
from server.readings.api import router as readings_router
from server.reports.api import router as reports_router
from server.shop.api import router as shop_router
from server.simbench.api import router as simbench_router
from server.simbench.practice import router as practice_router
from server.touch.api import router as touch_router
from server.upkeep.api import router as upkeep_router

api = NinjaAPI(title="Clear Lens", version="1", auth=look, docs_url=None, openapi_url=None, parser=StrictParser())
install_handlers(api)
for router in (
    accounts_router,
    bench_router,
    day_router,
    profiles_router,
    inspections_router,
    rectified_router,
    parts_router,
    registers_router,
    readings_router,
    purchasing_router,
    fitting_router,
    own_procedures_router,
    proving_router,
    incoming_router,
    reports_router,
    simbench_router,
    practice_router,
    rates_router,
    vocabulary_router,
    touch_router,
    choice_router,
    upkeep_router,
    people_router,
    shop_router,
    rules_router,
):
    api.add_router("", router)


# every operation may be refused in these ways, always in the same shape
REFUSALS = {
    400: "cannot be read",
    401: "signed out",
    403: "not allowed",
    404: "not there",
    405: "wrong method",
    408: "the rest did not come",
    409: "somebody else was first",
    413: "too large",
    415: "a type that is not taken",
    422: "wrong input",
    429: "too many tries",
    503: "busy, or the database is away: try again",
    507: "the disk is full",
}


class Refusal(Schema):
    """A refusal (RFC 9457): ``detail`` may be shown as it is, ``type`` is stable."""

    type: str
    status: int
    detail: str
    errors: list[dict[str, Any]]


def schema() -> dict[str, Any]:
    """The OpenAPI document from which the front end's types are made."""
    document = dict(api.get_openapi_schema())
    document["components"]["schemas"]["Refusal"] = Refusal.model_json_schema()
    shape = {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Refusal"}}}
    document["components"]["responses"] = {
        f"Refusal{status}": {"description": words, "content": shape} for status, words in REFUSALS.items()
    }
    for operations in document["paths"].values():
        for operation in operations.values():
            answers = {str(status): told for status, told in operation["responses"].items()}
            refusals = {str(status): {"$ref": f"#/components/responses/Refusal{status}"} for status in REFUSALS}
            operation["responses"] = {**refusals, **answers}
    return document
