"""Precedence graphs, held to enumeration of all linear extensions and to networkx."""

import random
from collections.abc import Iterator
from itertools import combinations
from unittest import TestCase

import networkx

from lens.errors import BadInput, ModelInconsistent
from lens.steps import (
    Done,
    Graph,
    Step,
    blocked,
    check,
    check_log,
    circles,
    critical_path,
    done_after,
    finished,
    held,
    open_steps,
    order,
    reachable,
    schedule,
    undo,
)


def step(name: str, *needs: str, **facts: object) -> Step:
    return Step.model_validate({"id": name, "title": name.title(), "needs": needs, **facts})


def graph(*steps: Step, holds: tuple[str, ...] = ()) -> Graph:
    return Graph(id="g", title="G", steps=steps, holds=holds)


def random_graph(rng: random.Random, size: int, share: float = 0.35) -> Graph:
    """An acyclic graph, its steps written in an order of their own."""
    names = [f"s{n}" for n in range(size)]
    needs: dict[str, list[str]] = {name: [] for name in names}
    for first, second in combinations(range(size), 2):
        if rng.random() < share:
            needs[names[second]].append(names[first])
    rng.shuffle(names)
    minutes = {name: (rng.randint(0, 9), rng.choice((0, 0, 30))) for name in names}
    return graph(*(step(n, *needs[n], minutes=minutes[n][0], wait_minutes=minutes[n][1]) for n in names))


def as_networkx(made: Graph) -> "networkx.DiGraph[str]":
    net: networkx.DiGraph[str] = networkx.DiGraph()
    net.add_nodes_from(one.id for one in made.steps)
    net.add_edges_from((before, one.id) for one in made.steps for before in one.needs)
    return net


def walks(made: Graph, log: tuple[Done, ...] = ()) -> Iterator[tuple[str, ...]]:
    """Every order that the open steps allow."""
    ready = open_steps(made, log)
    if not ready:
        yield tuple(one.step for one in log)
    for name in ready:
        yield from walks(made, (*log, Done(step=name)))


class Precedence(TestCase):
    def test_the_open_steps_allow_exactly_the_linear_extensions(self) -> None:
        rng = random.Random(5)
        for size in (1, 3, 5, 6, 7):
            made = random_graph(rng, size, 0.45)
            expected = sorted(tuple(one) for one in networkx.all_topological_sorts(as_networkx(made)))
            self.assertEqual(sorted(walks(made)), expected)

    def test_circles_and_what_hangs_on_them_are_networkx(self) -> None:
        rng = random.Random(9)
        for _ in range(60):
            size = rng.randint(2, 12)
            names = [f"s{n}" for n in range(size)]
            steps = [step(n, *(o for o in names if rng.random() < 0.15)) for n in names]
            made = graph(*steps)
            net = as_networkx(made)
            knots = [
                c for c in networkx.strongly_connected_components(net) if len(c) > 1 or net.has_edge(*[*c, *c][:2])
            ]
            found = circles(made)
            self.assertEqual(
                sorted(sorted(c) for c in knots if len(c) > 0), sorted(self.knot_of(net, c) for c in found)
            )
            stuck = {one for knot in knots for one in knot} | {
                after for knot in knots for one in knot for after in networkx.descendants(net, one)
            }
            self.assertEqual(reachable(made), set(names) - stuck)
            for way in found:
                for here, there in zip(way, (*way[1:], way[0]), strict=True):
                    self.assertIn(there, made.by_id[here].needs)

    @staticmethod
    def knot_of(net: "networkx.DiGraph[str]", way: tuple[str, ...]) -> list[str]:
        return sorted(next(c for c in networkx.strongly_connected_components(net) if way[0] in c))

    def test_the_critical_path_is_networkxs_longest_path(self) -> None:
        rng = random.Random(11)
        for _ in range(40):
            made = random_graph(rng, rng.randint(1, 14))
            net = as_networkx(made)
            weight = {one.id: one.minutes + one.wait_minutes for one in made.steps}
            for before, after in net.edges:
                net[before][after]["weight"] = weight[before]
            ends = {
                one: max((networkx.dag_longest_path_length(net.subgraph({*networkx.ancestors(net, one), one})), 0))
                for one in net
            }
            longest = max(ends[one] + weight[one] for one in net)
            found = critical_path(made)
            self.assertAlmostEqual(found.minutes, longest)
            self.assertAlmostEqual(sum(weight[name] for name in found.steps), found.minutes)
            for before, after in zip(found.steps, found.steps[1:], strict=False):
                self.assertIn(before, made.by_id[after].needs)

    def test_every_policy_gives_a_legal_order_and_no_schedule_beats_the_critical_path(self) -> None:
        rng = random.Random(13)
        for _ in range(30):
            made = random_graph(rng, 12)
            for policy in ("written", "long_waits_first", "short_first"):
                told = order(made, policy)  # type: ignore[arg-type]
                names = [one.step for one in told]
                self.assertEqual(sorted(names), sorted(one.id for one in made.steps))
                for one in made.steps:
                    self.assertTrue(all(names.index(b) < names.index(one.id) for b in one.needs))
                slots = schedule(made, told)
                work = sum(one.minutes for one in made.steps)
                self.assertGreaterEqual(max(s.over for s in slots), max(work, critical_path(made).minutes) - 1e-9)
                for slot, after in zip(slots, slots[1:], strict=False):
                    self.assertLessEqual(slot.worked, after.start)

    def test_waits_begun_first_save_time(self) -> None:
        made = graph(
            step("polish", minutes=20), step("glue", minutes=5, wait_minutes=60), step("close", "glue", "polish")
        )
        over = {p: max(s.over for s in schedule(made, order(made, p))) for p in ("written", "long_waits_first")}
        self.assertEqual(over, {"written": 85, "long_waits_first": 65})


class TheWayBack(TestCase):
    def test_undo_is_what_was_built_on_it_last_done_first(self) -> None:
        rng = random.Random(17)
        for _ in range(40):
            made = random_graph(rng, 9)
            log: tuple[Done, ...] = ()
            for _ in range(rng.randint(1, 9)):
                log = done_after(made, rng.choice(open_steps(made, log)), log)
            done = [one.step for one in log]
            for name in done:
                built_on = networkx.descendants(as_networkx(made), name) & set(done)
                self.assertEqual(undo(made, name, log), (*(o for o in reversed(done) if o in built_on), name))

    def test_what_was_not_done_cannot_be_taken_back(self) -> None:
        with self.assertRaisesRegex(BadInput, "nothing to take back"):
            undo(graph(step("a")), "a", ())
        with self.assertRaisesRegex(BadInput, "Did you mean 'bezel'"):
            blocked(graph(step("bezel")), "bezle", ())
        with self.assertRaisesRegex(BadInput, "no choice at 'A' called 'x'"):
            check_log(graph(step("a", choices={"y": "Y"})), [Done(step="a", choice="x")])


class ChoicesAndStates(TestCase):
    FILM = graph(
        step("film", choices={"peel": "Peeled", "leave": "Left on"}),
        step("dust", "film", when={"film": ["peel"]}),
        step("note", when={"film": ["leave"]}),
        step("close", "dust", "note"),
    )

    def test_a_choice_opens_one_way_and_shuts_the_other(self) -> None:
        self.assertEqual(open_steps(self.FILM, ()), ("film",))
        log = done_after(self.FILM, "film", (), "peel")
        self.assertEqual(open_steps(self.FILM, log), ("dust",))
        self.assertIn("another way", blocked(self.FILM, "note", log))
        log = done_after(self.FILM, "close", done_after(self.FILM, "dust", log))
        self.assertTrue(finished(self.FILM, log))
        with self.assertRaisesRegex(BadInput, "asks for a choice"):
            done_after(self.FILM, "film", ())
        self.assertEqual([one.step for one in order(self.FILM, choices={"film": "leave"})], ["film", "note", "close"])

    def test_a_state_that_was_ended_is_asked_for_again(self) -> None:
        made = graph(
            step("make_safe", sets=["isolated"]),
            step("plug", "make_safe", requires=["isolated"]),
            step("power_up", "plug", ends=["isolated"]),
            step("close", "power_up", requires=["isolated"]),
        )
        check(made)
        log = order(made)
        self.assertEqual([one.step for one in log], ["make_safe", "plug", "power_up", "make_safe", "close"])
        before = log[:3]
        self.assertEqual(blocked(made, "close", before), "'Make_Safe' comes first again.")
        self.assertEqual(open_steps(made, before), ("make_safe",))
        self.assertEqual(held(made, log), {"isolated"})
        self.assertEqual(open_steps(made, log), ())  # nothing that is left asks for it

    def test_all_faults_are_told_at_once(self) -> None:
        made = graph(
            step("a", "bb", when={"b": ["x"]}),
            step("b", "c", choices={"y": "Y"}),
            step("c", "b", requires=["isolated"]),
            step("d"),
            step("d"),
        )
        with self.assertRaises(ModelInconsistent) as told:
            check(made)
        for words in (
            "a.needs: 'bb' is unknown",
            "a.when.b: 'x' is unknown",
            "waits for itself: b -> c -> b",
            "is there 2 times",
            "no step brings about",
        ):
            self.assertIn(words, str(told.exception))

    def test_a_step_that_nobody_reaches_is_named(self) -> None:
        made = graph(step("a", requires=["safe"]), step("b", "a", sets=["safe"]))
        with self.assertRaisesRegex(ModelInconsistent, "a: can never be reached; b: can never be reached"):
            check(made)
