"""The words and rules that the interface shows."""

from django.http import HttpRequest
from ninja import Router, Schema

from lens.acceptance import class_table
from lens.diagnosis import DEVICES, NOT_POSSIBLE, TRIED, load_model
from lens.fitting import procedures
from lens.patterns import PATTERNS, PatternSet, built_in_sets
from lens.records import KINDS, STAGES, STATIONS, WAITING, KindFacts, StageFacts, StationFacts, Waiting
from server.profiles.actions import offered_profiles

router = Router(tags=["vocabulary"])


class Choice(Schema):
    id: str
    title: str


class PatternChoice(Choice):
    """``outlined`` ones show the panel's outline: a photo of one is registered by that when its markers cannot be read."""

    outlined: bool


class CheckOut(Schema):
    """``measured`` ones answer themselves from photos."""

    id: str
    title: str
    how: list[str]
    needs: str
    cautions: list[str]
    minutes: float
    devices: list[str]
    measured: bool
    outcomes: list[Choice]


class RepairChoice(Choice):
    """``prepares``: it comes before the work and is only done."""

    prepares: bool


class Vocabulary(Schema):
    """The words and rules that the interface shows; they live in the core and nowhere else."""

    devices: list[str]
    profiles: list[Choice]
    profile_source: str
    builds: list[Choice]
    patterns: list[PatternChoice]
    pattern_sets: dict[str, PatternSet]
    checks: list[CheckOut]
    repairs: list[RepairChoice]
    tried: list[Choice]
    causes: list[Choice]
    not_possible: str
    kinds: list[KindFacts]
    stations: list[StationFacts]
    stages: list[StageFacts]
    waiting: list[Waiting]


@router.get("/vocabulary", response=Vocabulary, operation_id="getVocabulary")
def vocabulary(request: HttpRequest) -> Vocabulary:
    table, model = class_table(), load_model()
    return Vocabulary(
        devices=list(DEVICES),
        profiles=[Choice(id=p.id, title=p.title) for p, _ in offered_profiles()],
        profile_source=table.source,
        builds=[Choice(id=i, title=b.title) for i, b in procedures().items()],
        patterns=[PatternChoice(id=p.id, title=p.title, outlined=p.outlined) for p in PATTERNS.values()],
        pattern_sets=built_in_sets(),
        checks=[
            CheckOut(
                id=i,
                title=c.title,
                how=list(c.how),
                needs=c.needs,
                cautions=list(c.cautions),
                minutes=c.minutes,
                devices=list(c.devices),
                measured=bool(c.features),
                outcomes=[Choice(id=o, title=t) for o, t in c.outcomes.items()],
            )
            for i, c in model.checks.items()
        ],
        repairs=[RepairChoice(id=i, title=r.title, prepares=model.prepares(i)) for i, r in model.repairs.items()],
        tried=[Choice(id=i, title=t) for i, t in TRIED.items()],
        causes=[Choice(id=i, title=c.title) for i, c in model.causes.items()],
        not_possible=NOT_POSSIBLE,
        kinds=list(KINDS.values()),
        stations=list(STATIONS.values()),
        stages=list(STAGES.values()),
        waiting=list(WAITING.values()),
    )
