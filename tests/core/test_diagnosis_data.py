"""The data that the diagnosis stands on: as large as the trade, and all its faults told at once."""

from unittest import TestCase

from lens.diagnosis import check_model, load_model, read_model
from lens.errors import ModelInconsistent
from tests.core.test_diagnosis import cause, small


class ModelChecks(TestCase):
    def test_the_shipped_data_is_as_large_as_the_trade(self) -> None:
        model = load_model()
        self.assertGreaterEqual(len(model.causes), 25)
        self.assertGreaterEqual(len(model.checks), 35)
        self.assertTrue(all(len(check.how) == 3 for check in model.checks.values()))
        # ids that touch sessions use for their suspects too
        self.assertLessEqual(
            {
                "touch_flex",
                "touch_controller",
                "digitizer_glass",
                "row_or_column_sense_line",
                "charger_noise",
                "adhesive_or_film",
                "software",
            },
            set(model.causes),
        )

    def test_all_faults_of_the_data_are_listed_at_once(self) -> None:
        model = load_model()
        light = model.checks["light"]
        rows = {"backlite_string": (0.2, 0.5, 0.3), "cable": (0.5, 0.4, 0.2), "cell": (0.5, 0.5)}
        broken = light.model_copy(update={"likelihood": {**light.likelihood, **rows}})
        photos = model.checks["photos"]
        odd = photos.model_copy(update={"features": {**photos.features, "cell": {"krack": 0.5, "lines": 1.2}}})
        extra = cause(0.0, "panle")
        with self.assertRaises(ModelInconsistent) as caught:
            check_model(
                model.model_copy(
                    update={"checks": {"light": broken, "photos": odd}, "causes": {**model.causes, "extra": extra}}
                )
            )
        text = str(caught.exception)
        for words in (
            "Did you mean 'backlight_string'",
            "Did you mean 'crack'",
            "Did you mean 'panel'",
            "sums to 1.1, not 1",
            "2 numbers for 3 outcomes",
            "not between 0 and 1",
            "extra.prior",
        ):
            self.assertIn(words, text)

    def test_files_that_hold_no_model_are_refused_with_the_place(self) -> None:
        for causes, checks, words in (
            ("a: [", "", "no YAML"),
            ("just words", "x: 1", "holds no names"),
            ("version: 1", "checks: {}", "causes"),
        ):
            with self.assertRaisesRegex(ModelInconsistent, words):
                read_model(causes, checks)
        missing = small().checks["plain"].model_copy(update={"likelihood": {"none": (0.9, 0.1), "one": (0.5, 0.5)}})
        with self.assertRaisesRegex(ModelInconsistent, "nothing else speaks of two, three"):
            check_model(small().model_copy(update={"checks": {"plain": missing}}))
