"""What each station says of itself, and how far a job is: rules by table (common practice of the bench's own order of work)."""

from unittest import TestCase

from lens.progress import JobVerdict, StationTold, reached, station_states, stations
from lens.records import STATIONS


def verdict(result: str, measured: bool = True) -> JobVerdict:
    part = {"part": "picture", "stage": "closed", "result": result, "text": f"Picture: {result}."}
    return JobVerdict.model_validate(
        {"result": result, "parts": [part] if measured else [], "missing": ["Touch is missing."], "next": "Draw."}
    )


class EachStation(TestCase):
    def test_what_is_known_and_what_comes_next(self) -> None:
        for told, state, known, step in (
            (stations.intake("", "640x400", "Class II"), "active", "640x400, Class II.", "Write down the complaint"),
            (stations.intake("Dots", "640x400", "Class II"), "done", "640x400", ""),
            (stations.isolate(0, "Cell", 0.4, "", "Look at it"), "open", "No check answered", "Look at it"),
            (stations.isolate(2, "Cell", 0.4, "", "Look at it"), "active", "Cell, 40%.", "Next: Look at it"),
            (stations.isolate(2, "Cell", 0.8, "", "Look at it"), "done", "Cell, 80%.", "Next: Look at it"),
            (stations.isolate(2, "Cell", 0.6, "Enough.", "Replace it"), "done", "Cell, 60%.", "Enough."),
            (stations.measured(None, "No photo yet.", "Shoot."), "open", "No photo yet.", "Shoot."),
            (stations.measured(verdict("pass", False), "No photo yet.", "Shoot."), "open", "No photo", "Shoot."),
            (stations.measured(verdict("fail"), "", ""), "failed", "Picture: fail. Touch is missing.", "Draw."),
            (stations.match("", ""), "open", "not identified", "label"),
            (stations.match("A-1", ""), "active", "In the device: A-1.", "Choose"),
            (stations.match("A-1", "B-2"), "done", "Chosen: B-2.", ""),
            (stations.fit(None), "open", "Nobody said", "how the display is built in"),
            (stations.fit([("Open", False), ("Close", False)]), "open", "0 of 2", "Next: Open."),
            (stations.fit([("Open", True), ("Close", False)]), "active", "1 of 2", "Next: Close."),
            (stations.fit([("Open", True)]), "done", "All steps done.", ""),
            (stations.hand_over(True), "done", "Handed over.", ""),
        ):
            self.assertEqual(told.state, state, told)
            self.assertIn(known, told.known)
            self.assertIn(step, told.next)

    def test_a_station_of_which_nobody_tells_anything_is_open(self) -> None:
        self.assertEqual({one.state for one in station_states({}, ())}, {"open"})

    def test_how_far_a_job_is(self) -> None:
        for begun, skipped, closed, expected in (
            ({}, (), False, "intake"),
            ({"intake": "done"}, (), False, "isolate"),
            ({"intake": "done", "isolate": "active"}, (), False, "isolate"),
            ({"intake": "done", "inspect": "not_proven"}, (), False, "inspect"),
            ({"intake": "done", "inspect": "failed"}, (), False, "match"),
            ({"intake": "done", "inspect": "failed"}, ("match",), False, "fit"),
            ({"intake": "done", "match": "done"}, (), False, "fit"),
            ({"intake": "done", "prove": "failed"}, (), False, "prove"),
            ({"intake": "done", "prove": "done"}, (), False, "hand_over"),
            ({"intake": "done"}, (), True, "hand_over"),
        ):
            told = {name: StationTold(begun.get(name, "open"), "", "") for name in STATIONS}  # type: ignore[arg-type]
            states = station_states(told, skipped)
            self.assertEqual(reached(states, closed), expected, (begun, skipped))
            self.assertEqual([one.state for one in states if one.id in skipped], ["skipped"] * len(skipped))
