"""Diagnosis: exact inference held to pgmpy and to full enumeration, decisions held to worked numbers."""

import itertools
import time
import warnings
from unittest import TestCase

import numpy as np

from lens.diagnosis import (
    DEVICES,
    NOT_POSSIBLE,
    EvidenceItem,
    Model,
    Seen,
    base_rates,
    build_network,
    diagnose,
    load_model,
    marginals,
    network_for,
    posterior,
)
from lens.diagnosis.advise import best_repair, weigh
from lens.diagnosis.exact import search
from lens.diagnosis.load import Cause, Check, Repair
from lens.diagnosis.network import NOTHING_WRONG, TWO_CAUSES
from lens.diagnosis.worth import cost_to_mend, worth_of_checks


def cause(prior: float, repaired_by: str) -> Cause:
    return Cause(title="x", prior=dict.fromkeys(DEVICES, prior), repaired_by=(repaired_by,))


def look(rows: dict[str, tuple[float, ...]], minutes: float = 1.0, outcomes: str = "ab") -> Check:
    return Check(title="x", outcomes={name: name for name in outcomes}, minutes=minutes, how=("look",), likelihood=rows)


def small() -> Model:
    """Three causes, a check with three outcomes, one with features, one without a word of the third cause."""
    return Model(
        version=1,
        repairs={
            name: Repair(title=name, minutes=m, cost=c)
            for name, m, c in (("r1", 10, 0), ("r2", 30, 20), ("r3", 60, 90))
        },
        causes={"one": cause(5, "r1"), "two": cause(3, "r2"), "three": cause(2, "r3")},
        together=(("one", "two", 3.0),),
        checks={
            "worse": look(
                {"none": (0.9, 0.07, 0.03), "other": (0.8, 0.1, 0.1), "one": (0.1, 0.7, 0.2), "two": (0.2, 0.1, 0.7)},
                outcomes="abc",
            ),
            "seen": Check(
                title="x",
                outcomes={"n": "n", "f": "f", "g": "g"},
                minutes=2,
                how=("look",),
                features={"none": {"f": 0.05, "g": 0.1}, "one": {"f": 0.8}, "three": {"f": 0.4, "g": 0.9}},
            ),
            "plain": look({"none": (0.95, 0.05), "other": (0.9, 0.1), "two": (0.3, 0.7)}),
        },
    )


def by_hand(model: Model, check_id: str, outcome: str, causes: tuple[str, ...]) -> float:
    """P(outcome | causes) written out: noisy-max over the ordered outcomes, each cause against a sound device (Diez 1993)."""
    names, rows = list(model.checks[check_id].outcomes), model.checks[check_id].likelihood
    if len(causes) == 1:
        return model.row(check_id, causes[0])[names.index(outcome)]

    def at_most(n: int) -> float:
        if n == len(names) - 1:
            return 1.0
        total, sound = 1.0, sum(rows["none"][: n + 1])
        for name in causes:
            total *= sum(model.row(check_id, name)[: n + 1]) / sound
        return min(total, 1.0) * sound

    n = names.index(outcome)
    return at_most(n) - (at_most(n - 1) if n else 0.0)


class Inference(TestCase):
    def test_posterior_equals_full_enumeration(self) -> None:
        model = small()
        sets = [(), *((c,) for c in model.causes), *itertools.combinations(model.causes, 2)]
        weight = {
            s: float(np.prod([model.causes[c].prior["tablet"] / 10 for c in s]))
            * (3.0 if set(s) == {"one", "two"} else 1.0)
            for s in sets
        }
        for size, share in ((0, NOTHING_WRONG), (1, 1 - NOTHING_WRONG - TWO_CAUSES), (2, TWO_CAUSES)):
            whole = sum(w for s, w in weight.items() if len(s) == size)
            weight |= {s: w * share / whole for s, w in weight.items() if len(s) == size}
        network = build_network(model, "tablet")
        features = {"f": {"one": 0.8, "three": 0.4}, "g": {"three": 0.9}}
        base = {"f": 0.05, "g": 0.1}
        for worse, plain, shown in itertools.product("abc", "ab", ((), ("f",), ("f", "g"))):
            joint = {}
            for s, w in weight.items():
                p = w * by_hand(model, "worse", worse, s) * by_hand(model, "plain", plain, s)
                for name, alone in features.items():
                    quiet = 1 - base[name]
                    for c in s:
                        quiet *= (1 - alone.get(c, base[name])) / (1 - base[name])
                    p *= 1 - quiet if name in shown else quiet
                joint[s] = p
            total = sum(joint.values())
            found = marginals(
                network,
                posterior(
                    model,
                    network,
                    [Seen("worse", (worse,), True), Seen("plain", (plain,), True), Seen("seen", shown, True)],
                ),
            )
            for c in model.causes:
                self.assertAlmostEqual(found[c], sum(w for s, w in joint.items() if c in s) / total, delta=1e-4)

    def test_posterior_equals_pgmpy(self) -> None:
        # pgmpy's variable elimination on the same conditional tables of the shipped data, on twelve random sets of evidence
        warnings.simplefilter("ignore")
        from pgmpy.factors.discrete import TabularCPD
        from pgmpy.inference import VariableElimination
        from pgmpy.models import DiscreteBayesianNetwork

        model = load_model()
        network = network_for(model, "handset")
        names = [name for name, check in model.checks.items() if not check.features and name in network.shows][:9]
        graph = DiscreteBayesianNetwork([("fault", name) for name in names])
        graph.add_cpds(TabularCPD("fault", len(network.prior), network.prior[:, None]))
        for name in names:
            table = network.shows[name] / network.shows[name].sum(axis=0)
            graph.add_cpds(TabularCPD(name, len(table), table, evidence=["fault"], evidence_card=[len(network.prior)]))
        asked, rng = VariableElimination(graph), np.random.default_rng(4)
        for _ in range(12):
            told = {
                name: int(rng.integers(len(model.checks[name].outcomes)))
                for name in rng.choice(names, 5, replace=False)
            }
            reference = asked.query(["fault"], evidence=told, show_progress=False).values
            own = posterior(
                model, network, [Seen(name, (list(model.checks[name].outcomes)[n],), True) for name, n in told.items()]
            )
            np.testing.assert_allclose(own, reference, atol=1e-9)

    def test_bayes_by_hand(self) -> None:
        # a sound device out of the question, two causes as likely as 1 to 4: 0.2 x 0.9 / (0.2 x 0.9 + 0.8 x 0.3) = 0.428571...
        model = Model(
            version=1,
            repairs={"r": Repair(title="r", minutes=1, cost=1)},
            causes={"one": cause(2, "r"), "two": cause(8, "r")},
            checks={"look": look({"none": (0.5, 0.5), "one": (0.1, 0.9), "two": (0.7, 0.3)})},
        )
        network = build_network(model, "tablet")
        p = posterior(model, network, [Seen("look", ("b",), True)])
        single = network.members.sum(axis=1) == 1
        self.assertAlmostEqual(
            float(p[single & network.members[:, 0]].sum() / p[single].sum()), 0.18 / 0.42, delta=1e-5
        )

    def test_two_faults_are_both_found(self) -> None:
        # one cause explains the dead touch, another one the lines: neither does both
        told = diagnose(
            "handset",
            [
                EvidenceItem(check=c, outcome=o)
                for c, o in (
                    ("photos", "lines"),
                    ("photos", "clean"),
                    ("squeeze", "edge"),
                    ("warm_cool", "changes"),
                    ("touch_draw", "strip"),
                    ("touch_soak", "spot"),
                )
            ],
        )
        first = {told.causes[0].id, told.causes[1].id}
        self.assertEqual(first, {"cell_flex", "row_or_column_sense_line"})
        self.assertGreater(told.causes[0].p + told.causes[1].p, 1.2)
        self.assertEqual(told.contradictions, ())  # two causes explain it

    def test_forty_items_take_no_time(self) -> None:
        items = [
            EvidenceItem(check=name, outcome=next(iter(check.outcomes))) for name, check in load_model().checks.items()
        ]
        self.assertGreaterEqual(len(items), 40)
        start = time.process_time()
        diagnose("tablet", items)
        self.assertLess(time.process_time() - start, 0.5)


class Decisions(TestCase):
    def test_repairs_go_by_probability_over_cost(self) -> None:
        # Heckerman, Breese, Rommelse 1995: order by p / cost. 0.3/10 before 0.7/60: 10 + 0.7 x 60 = 52, the other way 60 + 0.3 x 10 = 63
        model = Model(
            version=1,
            repairs={"cheap": Repair(title="c", minutes=10, cost=0), "dear": Repair(title="d", minutes=60, cost=0)},
            causes={"one": cause(1, "cheap"), "two": cause(1, "dear")},
            checks={},
        )
        network = build_network(model, "tablet")
        p = np.array([0.0, 0.3, 0.7, 0.0])
        self.assertAlmostEqual(float(cost_to_mend(model, network, p[None])[0]), 52.0)
        self.assertEqual(best_repair(model, network, p), "cheap")

    def test_the_worth_of_a_check_by_hand(self) -> None:
        # a perfect check of 2 minutes between the two: 0.3 x 10 + 0.7 x 60 = 45 after it, 52 without: it saves 7 - 2 = 5
        rows = {"none": (0.999998, 2e-6), "one": (0.999998, 2e-6), "two": (2e-6, 0.999998)}
        model = Model(
            version=1,
            repairs={"cheap": Repair(title="c", minutes=10, cost=0), "dear": Repair(title="d", minutes=60, cost=0)},
            causes={"one": cause(1, "cheap"), "two": cause(1, "dear")},
            checks={"look": look(rows, minutes=2)},
        )
        network = build_network(model, "tablet")
        p = np.array([0.0, 0.3, 0.7, 0.0])
        self.assertAlmostEqual(worth_of_checks(model, network, p, ["look"])[0].saving, 5.0, delta=0.01)
        step = weigh(model, network, p, ["look"]).step
        assert step is not None
        self.assertEqual((step.kind, step.id), ("check", "look"))
        sure = weigh(model, network, np.array([0.0, 1.0, 0.0, 0.0]), ["look"]).step
        assert sure is not None
        self.assertEqual((sure.kind, sure.id), ("repair", "cheap"))  # sure already: a look only costs

    def test_looking_ahead_loses_little_against_the_best_policy(self) -> None:
        model = small().model_copy(
            update={"checks": {name: check for name, check in small().checks.items() if not check.features}}
        )
        told = search(model, build_network(model, "tablet"))
        self.assertGreaterEqual(told.advised, told.best - 1e-9)
        self.assertLess(told.advised / told.best, 1.05)
        self.assertTrue(told.first_is_best)
        with self.assertRaisesRegex(ValueError, "features"):
            search(small(), build_network(small(), "tablet"))
        plain = load_model().model_copy(
            update={"checks": {name: check for name, check in load_model().checks.items() if not check.features}}
        )
        with self.assertRaisesRegex(ValueError, "too many"):
            search(plain, network_for(plain, "tablet"))

    def test_looking_stops_when_the_rest_costs_more_than_it_saves(self) -> None:
        sure = [("first_look", "broken"), ("impact", "cell"), ("photos", "crack"), ("external_output", "clean")]
        told = diagnose("clamshell", [EvidenceItem(check=c, outcome=o) for c, o in sure])
        self.assertTrue(told.stop.advised)
        self.assertEqual((told.plan[0].kind, told.plan[0].id), ("repair", "panel"))
        self.assertIn("Replace the panel now: further checks cost more than they save.", told.stop.reason)
        self.assertFalse(diagnose("clamshell", []).stop.advised)

    def test_a_repair_that_changed_nothing_counts_against_what_it_would_have_mended(self) -> None:
        items = [EvidenceItem(check="first_look", outcome="lines")]
        before, after = (
            diagnose("clamshell", list(told))
            for told in (items, [*items, EvidenceItem(check="repair:reseat", outcome="same")])
        )
        share = {
            told: next(c.p for c in d.causes if c.id == "connector")
            for told, d in (("before", before), ("after", after))
        }
        self.assertLess(share["after"], 0.3 * share["before"])
        self.assertNotIn("reseat", [step.id for step in after.next])

    def test_what_was_put_aside_is_not_proposed_again_and_says_nothing(self) -> None:
        first = diagnose("clamshell", [])
        aside = diagnose("clamshell", [EvidenceItem(check=first.plan[0].id, outcome=NOT_POSSIBLE)])
        self.assertNotIn(first.plan[0].id, [step.id for step in (*aside.plan, *aside.next)])
        self.assertEqual([(c.id, c.p) for c in aside.causes], [(c.id, c.p) for c in first.causes])
        self.assertEqual(len(first.plan), 3)


class Learning(TestCase):
    def test_closed_jobs_shift_the_shares_by_dirichlet_counts(self) -> None:
        # worked: 0.5 shipped at a weight of 60, 15 of 20 own jobs: (30 + 15) / 80 = 0.5625
        rates = {rate.cause: rate for rate in base_rates(small(), "tablet", {"one": 15, "two": 5, "gone": 9})}
        self.assertAlmostEqual(rates["one"].now, 45 / 80)
        self.assertAlmostEqual(sum(rate.now for rate in rates.values()), 1)
        self.assertEqual((rates["one"].shipped, rates["one"].counted, rates["three"].counted), (0.5, 15, 0))

    def test_the_shops_rates_change_the_order(self) -> None:
        model = load_model()
        learned = {rate.cause: rate.now for rate in base_rates(model, "clamshell", {"connector": 200})}
        self.assertEqual(diagnose("clamshell", [], learned=learned).causes[0].id, "connector")
