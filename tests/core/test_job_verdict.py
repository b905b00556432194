"""The one verdict, as a table: what was measured, and what may be said of the device that is handed over (common practice: the last test counts)."""

from unittest import TestCase

from lens.progress import Seen, has_touch, job_verdict, stage_verdict

PASS, FAIL, OPEN = (
    Seen("pass", "class-II", "pass"),
    Seen("fail", "class-II", "pass"),
    Seen("not_proven", "class-II", "pass"),
)
NO_TOUCH = Seen("pass", "class-II")


class OneVerdict(TestCase):
    def test_what_was_measured_and_what_may_be_said(self) -> None:
        for stages, touch, closing, wanted in (
            ({}, False, None, "not_proven"),
            ({"inspect": PASS}, False, None, "not_proven"),  # the old panel's verdict is not the device's
            ({"inspect": FAIL}, True, None, "not_proven"),
            ({"dry_fit": PASS}, True, None, "not_proven"),
            ({"closed": PASS}, True, None, "pass"),
            ({"closed": NO_TOUCH}, False, None, "pass"),
            ({"closed": NO_TOUCH}, True, None, "not_proven"),
            (
                {"closed": Seen("pass", "class-II", "fail")},
                True,
                None,
                "fail",
            ),  # a passed picture over a failed touch is no pass
            ({"closed": Seen("pass", "class-II", "fail")}, False, None, "fail"),
            ({"closed": FAIL}, True, None, "fail"),
            ({"closed": OPEN}, True, None, "not_proven"),
            ({"inspect": FAIL, "closed": PASS}, True, None, "pass"),
            ({"dry_fit": PASS, "closed": PASS}, True, "unchanged", "pass"),
            ({"dry_fit": PASS, "closed": PASS}, True, "changed", "fail"),
            ({"dry_fit": PASS, "closed": PASS}, True, "not_proven", "not_proven"),
            ({"closed": FAIL, "recheck": PASS}, True, None, "pass"),
            ({"closed": PASS, "recheck": Seen(touch="fail")}, True, None, "fail"),
            ({"closed": NO_TOUCH, "recheck": Seen(touch="pass")}, True, None, "pass"),
        ):
            told = job_verdict(stages, touch, (closing, "Words.") if closing else None)  # type: ignore[arg-type]
            self.assertEqual(told.result, wanted, (stages, touch, closing))
            self.assertEqual(told.result == "pass", not told.next)
            self.assertTrue(told.text)

    def test_a_worse_touch_after_closing_fails(self) -> None:
        self.assertEqual(job_verdict({"closed": PASS}, True, None, ("worse", "1 dead zone new.")).result, "fail")
        self.assertEqual(job_verdict({"closed": PASS}, True, None, ("better", "1 dead zone gone.")).result, "pass")

    def test_a_stage_by_itself(self) -> None:
        for seen, touch, wanted in (
            (PASS, True, "pass"),
            (NO_TOUCH, True, "not_proven"),
            (NO_TOUCH, False, "pass"),
            (Seen(), False, "not_proven"),
            (Seen(touch="fail"), True, "fail"),
            (Seen("pass", "x", "fail"), False, "fail"),
        ):
            self.assertEqual(stage_verdict("inspect", seen, touch).result, wanted, (seen, touch))

    def test_who_has_touch(self) -> None:
        self.assertTrue(
            has_touch("handset")
            and has_touch("clamshell", panel_has_touch=True)
            and has_touch("clamshell", touch_recorded=True)
        )
        self.assertFalse(has_touch("clamshell"))
