"""The day plan: against every order of small days, and against facts that any plan must keep."""

import datetime as dt
import itertools
import random
import unittest

from lens.fitting import POWERED, procedures
from lens.planning import DayJob, Piece, pieces_left, plan_day
from lens.purchasing import calendar_of
from lens.steps import Done, order

MONDAY = dt.datetime(2026, 11, 30, 8, 0)
OPEN = calendar_of({"mon": "08:00-12:00, 13:00-17:00", "tue": "08:00-12:00"})


def job(number: int, *pieces: tuple[float, float], **about: object) -> DayJob:
    cut = tuple(Piece(title=f"p{at}", minutes=work, wait_minutes=wait) for at, (work, wait) in enumerate(pieces))
    return DayJob.model_validate({"id": number, "pieces": cut, **about})


class OneDay(unittest.TestCase):
    def test_the_largest_lateness_is_the_smallest_of_all_orders(self) -> None:
        """Jackson's rule (1955, from memory): enumerated here over all orders of five jobs."""
        rng = random.Random(3)
        for _ in range(30):
            days = [MONDAY.date() + dt.timedelta(days=rng.randint(-4, 4)) for _ in range(5)]
            jobs = [job(n, (rng.randint(5, 40), 0), due=day) for n, day in enumerate(days)]

            def worst(sequence: tuple[DayJob, ...]) -> float:
                at, most = 0.0, float("-inf")
                for one in sequence:
                    at += one.pieces[0].minutes
                    assert one.due is not None
                    most = max(most, at - 1440 * one.due.toordinal())
                return most

            plan = plan_day(jobs, OPEN, MONDAY)
            told = worst(tuple(jobs[slot.job] for slot in plan.slots))
            self.assertAlmostEqual(told, min(worst(one) for one in itertools.permutations(jobs)))

    def test_what_cures_is_begun_first_and_others_fill_its_time(self) -> None:
        day = MONDAY.date()
        plan = plan_day([job(1, (30, 0), due=day), job(2, (20, 60), (10, 0), due=day)], OPEN, MONDAY)
        self.assertEqual([(slot.job, slot.piece) for slot in plan.slots], [(2, "p0"), (1, "p0"), (2, "p1")])
        self.assertEqual(plan.slots[2].begins, MONDAY + dt.timedelta(minutes=80))
        self.assertEqual((plan.done, plan.late), ((1, 2), ()))

    def test_no_two_things_at_once_none_before_its_clock_none_in_closed_hours(self) -> None:
        rng = random.Random(8)
        for _ in range(200):
            now = MONDAY + dt.timedelta(minutes=rng.randint(-120, 600))
            jobs = [
                job(
                    n,
                    *((rng.randint(1, 90), rng.choice([0, 0, 30, 300])) for _ in range(rng.randint(0, 3))),
                    ready_at=now + dt.timedelta(minutes=rng.randint(-50, 200)),
                    urgent=rng.random() < 0.2,
                )
                for n in range(6)
            ]
            plan = plan_day(jobs, OPEN, now)
            ready = {one.id: max(one.ready_at or now, now) for one in jobs}
            at = now
            for slot in plan.slots:
                self.assertTrue(at <= slot.begins < slot.ends, slot)
                self.assertGreaterEqual(slot.begins, ready[slot.job])
                minutes = [
                    (t - dt.datetime.combine(t.date(), dt.time())).seconds / 60 for t in (slot.begins, slot.ends)
                ]
                self.assertTrue(any(lo <= minutes[0] and minutes[1] <= hi for lo, hi in OPEN.spans[0]), slot)
                ready[slot.job] = slot.until or slot.ends
                at = slot.ends
            worked = sum((slot.ends - slot.begins).total_seconds() / 60 for slot in plan.slots)
            self.assertLessEqual(worked, sum(piece.minutes for one in jobs for piece in one.pieces) + 1e-6)

    def test_a_piece_goes_on_after_the_closed_hour_and_what_is_left_is_late(self) -> None:
        plan = plan_day([job(1, (300, 0)), job(2, (400, 0), due=MONDAY.date())], OPEN, MONDAY)
        self.assertEqual([(slot.job, slot.whole) for slot in plan.slots], [(2, False), (2, True), (1, False)])
        self.assertEqual((plan.done, plan.late), ((2,), ()))
        sunday = plan_day([job(1, (5, 0), due=MONDAY.date())], OPEN, MONDAY - dt.timedelta(days=1))
        self.assertEqual(sunday.slots, ())
        late = plan_day([job(1, (500, 0), due=MONDAY.date())], OPEN, MONDAY)
        self.assertEqual((late.done, late.late), ((), (1,)))
        waits = plan_day([job(1, (5, 0), due=MONDAY.date(), whole=False)], OPEN, MONDAY)  # its part does not come today
        self.assertEqual((len(waits.slots), waits.done, waits.late), (1, (), (1,)))


class PiecesOfProcedures(unittest.TestCase):
    def test_nothing_is_lost_of_any_build_wherever_it_stands(self) -> None:
        for name, procedure in procedures().items():
            known = procedure.graph.by_id
            done = order(procedure.graph)
            for cut in (0, len(done) // 2, len(done)):
                left = pieces_left(procedure, done[:cut])
                asked = sum(known[one.step].minutes for one in done[cut:])
                self.assertAlmostEqual(sum(piece.minutes for piece in left), asked, msg=f"{name} at {cut}")

    def test_without_the_part_only_what_needs_none_is_left(self) -> None:
        for name, procedure in procedures().items():
            early, whole = (sum(one.minutes for one in pieces_left(procedure, (), here)) for here in (False, True))
            self.assertTrue(0 <= early < whole, name)

    def test_a_cure_cuts_a_job_in_two(self) -> None:
        phone = procedures()["phone_front"]
        self.assertTrue(any(piece.wait_minutes for piece in pieces_left(phone, ())))
        self.assertEqual(pieces_left(phone, [*order(phone.graph), Done(step=POWERED)])[:1], ())
