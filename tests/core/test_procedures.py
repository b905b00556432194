"""Every build walked in random legal orders and held to a slow checker of its own; own procedures with everything wrong."""

import random
from unittest import TestCase

import networkx

from benchmarks.fit import balance, broken, walk
from lens.errors import BadInput
from lens.fitting import (
    POWERED,
    builds_for,
    get_procedure,
    hazards,
    procedures,
    read_procedure,
    standing,
    subs_for,
    with_sub,
    without_subs,
)
from lens.steps import Done, Step, check, comes_before, critical_path

WALKS = 25  # a build; ./clear-lens benchmark fit walks a thousand


class Builds(TestCase):
    def test_every_kind_of_device_has_its_builds(self) -> None:
        """The table of section 'Ways a display is built in' (common practice)."""
        told = {
            device: [one.id for one in builds_for(device)]
            for device in ("clamshell", "handset", "tablet", "all_in_one")
        }
        self.assertEqual(
            sorted(told["clamshell"]), ["ears", "lid_back", "side_brackets", "stretch_strips", "whole_lid"]
        )
        self.assertEqual(sorted(told["handset"]), ["phone_back", "phone_both_sides", "phone_front", "phone_with_frame"])
        self.assertEqual((told["tablet"], told["all_in_one"]), (["tablet"], ["all_in_one"]))

    def test_random_legal_orders_break_no_rule_and_end_balanced(self) -> None:
        rng = random.Random(3)
        for name in procedures():
            for _ in range(WALKS):
                log = walk(name, rng)
                self.assertEqual(broken(name, log), [], name)
                if any(done.step == "close" for done in log):
                    self.assertEqual(balance(name, log), {}, name)

    def test_the_orders_are_topological(self) -> None:
        """Against networkx: each first pass through the steps is a topological order of their needs."""
        rng = random.Random(4)
        for name in procedures():
            firsts = list(dict.fromkeys(done.step for done in walk(name, rng) if done.step != POWERED))
            known, graph = get_procedure(name).graph.by_id, networkx.DiGraph()
            graph.add_nodes_from(firsts)
            graph.add_edges_from((b, s) for s in firsts for b in comes_before(known[s]) if b in firsts)
            self.assertTrue(networkx.is_directed_acyclic_graph(graph))
            place = {step: n for n, step in enumerate(firsts)}
            self.assertTrue(all(place[a] < place[b] for a, b in graph.edges), name)

    def test_the_dry_fit_ends_the_safe_state(self) -> None:
        """Every power-up ends it (trade, section 7)."""
        procedure = get_procedure("ears")
        log = [
            Done(step=s)
            for s in ("make_safe", "bezel_screws", "bezel", "fate", "panel_screws", "open", "plug", "dry_fit")
        ]
        where = standing(procedure, log)
        self.assertEqual(where.open, ("make_safe",))
        self.assertIn("again", dict(where.blocked)["panel_in"])
        self.assertEqual(where.undo[:2], ("dry_fit", "plug"))
        self.assertEqual({"fate", "bezel"} & set(dict(where.blocked)), set())  # what is done is not blocked

    def test_a_device_that_was_switched_on_is_made_safe_again(self) -> None:
        procedure = get_procedure("phone_front")
        log = [Done(step="make_safe", choice="battery_off")]
        self.assertIn("edge_screws", standing(procedure, log).open)
        self.assertNotIn("edge_screws", standing(procedure, log, powered=True).open)
        self.assertIn("make_safe", standing(procedure, log, powered=True).open)

    def test_no_power_while_a_screw_is_missing(self) -> None:
        procedure = get_procedure("ears")
        log = [Done(step=s) for s in ("make_safe", "bezel_screws", "bezel", "fate", "panel_screws", "open", "plug")]
        self.assertIn("dry_fit", standing(procedure, log).open)
        where = standing(procedure, log, unaccounted=1)
        self.assertNotIn("dry_fit", where.open)
        self.assertIn("1 loose thing is not accounted for", dict(where.blocked)["dry_fit"])

    def test_what_needs_no_part_can_be_done_while_it_travels(self) -> None:
        for name in ("phone_front", "stretch_strips"):
            free = [step for step in get_procedure(name).steps if not step.needs_part]
            self.assertTrue({"frame_ready", "lid_clean"} & {step.id for step in free}, name)

    def test_minutes_and_words(self) -> None:
        for name, procedure in procedures().items():
            self.assertGreater(critical_path(procedure.graph).minutes, 15, name)
            for step in procedure.steps:
                self.assertLessEqual(len(step.how), 3, f"{name}.{step.id}")
                self.assertTrue(set(step.hazards) <= set(hazards()))


class Own(TestCase):
    def check_refused(self, text: str, *words: str) -> None:
        with self.assertRaises(BadInput) as caught:
            read_procedure(text, "own")
        for word in words:
            self.assertIn(word, caught.exception.message)

    def test_everything_wrong_is_named(self) -> None:
        head = "title: Own\ndevices: [clamshell]\nsteps:\n"
        self.check_refused(
            head + "  - {id: a, title: A, needs: [b]}\n  - {id: b, title: B, needs: [a]}", "waits for itself"
        )
        self.check_refused(head + "  - {id: a, title: A, needs: [bezle]}\n  - {id: bezel, title: B}", "bezle", "bezel")
        self.check_refused(head + "  - {id: a, title: A}\n  - {id: a, title: A}", "2 times")
        self.check_refused(head + "  - {id: a, title: A, minutes: -3}", "minutes")
        self.check_refused(head + "  - {id: a, title: A, hazards: [glas]}", "glas", "glass")
        self.check_refused(head + "  - {use: safe_latop}", "safe_laptop")
        self.check_refused(head + "  - {id: a, title: A, requires: [calm]}", "calm")
        self.check_refused("title: &x Own\ndevices: [*x]\nsteps: []", "aliases")
        self.check_refused(head + "".join(f"  - {{id: s{n}, title: S}}\n" for n in range(501)), "steps")

    def test_an_own_one_is_read(self) -> None:
        text = "title: Own\ndevices: [clamshell]\nsteps:\n  - use: fate\n  - {use: safe_laptop, id: make_safe, needs: [fate]}\n"
        procedure = read_procedure(text, "own")
        self.assertEqual(standing(procedure, []).open, ("fate",))
        self.assertIsInstance(procedure.steps[0], Step)


class SubProcedures(TestCase):
    """Moving a touch controller in the middle of fitting: claim photos and a yes before solder, shorts measured before any plug (common practice)."""

    def test_every_phone_takes_it_in_and_gives_it_back(self) -> None:
        for name, procedure in procedures().items():
            if procedure.part_of:
                continue
            subs = [one.id for one in subs_for(procedure)]
            self.assertEqual(subs, ["touch_transfer"] if {"handset", "tablet"} & set(procedure.devices) else [], name)
            if subs:
                woven = with_sub(procedure, "touch_transfer")
                check(woven.graph)
                self.assertEqual(without_subs(woven), procedure)
                with self.assertRaises(BadInput):
                    with_sub(woven, "touch_transfer")

    def test_no_display_is_plugged_in_before_shorts_were_measured_nor_over_one(self) -> None:
        woven = with_sub(get_procedure("phone_front"), "touch_transfer")
        log: list[Done] = []

        def do(**choices: str) -> None:
            while True:
                ready = [one for one in standing(woven, log).open if one != "frame_ready"]
                if not ready:
                    return
                step = woven.graph.by_id[ready[0]]
                log.append(Done(step=step.id, choice=choices.get(step.id, next(iter(step.choices), None))))
                if step.id == "plug":
                    return

        do(sub_measure="short")
        self.assertNotIn("plug", [one.step for one in log])
        self.assertNotIn("plug", standing(woven, log).open)
        log.clear()
        do()
        order = [one.step for one in log]
        self.assertIn("plug", order)
        for first, then in (("sub_claim", "sub_consent"), ("sub_consent", "sub_lift_chip"), ("sub_measure", "plug")):
            self.assertLess(order.index(first), order.index(then))
