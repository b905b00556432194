"""What display repairers see and complain of, as cases that must end at the right cause. All facts here are common practice."""

from unittest import TestCase

from lens.diagnosis import DEVICES, EvidenceItem, diagnose, load_model
from lens.diagnosis.scenarios import Altered, follow, make_job, repaired_in_order

CASES: tuple[tuple[str, str, str, str], ...] = (
    # device, evidence, the cause or its fellow that must stand first, the fact
    (
        "clamshell",
        "first_look=glow light=yes picture=none hinge=yes",
        "cable connector",
        "a glow without a picture that moves with the hinge: no signal",
    ),
    (
        "clamshell",
        "light=no picture=torch sound=yes external_output=clean lid_magnet=awake",
        "lamp_driver backlight_string",
        "a faint picture under a torch",
    ),
    (
        "all_in_one",
        "first_look=uneven photos=zones light=yes onset=slowly",
        "backlight_string",
        "a dark zone at an edge: a failed lamp or string",
    ),
    ("clamshell", "first_look=black sound=no power=better", "no_supply", "no supply looks like a dead display"),
    (
        "clamshell",
        "first_look=dim light=dim brightness_keys=dark power=better sensor_cover=right",
        "battery",
        "an exhausted battery dims the panel",
    ),
    (
        "handset",
        "first_look=dim sensor_cover=wrong luminance=low",
        "brightness_sensor",
        "a covered light sensor dims it",
    ),
    (
        "clamshell",
        "first_look=wrong external_output=same_fault before_os=there",
        "graphics",
        "the same fault outside is not the panel",
    ),
    (
        "clamshell",
        "first_look=wrong external_output=same_fault before_os=gone safe_mode=gone",
        "software",
        "gone before the system starts: not hardware",
    ),
    (
        "handset",
        "impact=glass first_look=glass touch_draw=whole photos=clean",
        "cover_glass",
        "cracked glass may leave picture and touch alive",
    ),
    (
        "clamshell",
        "impact=cell first_look=broken photos=crack onset=drop",
        "cell",
        "an impact point with lines and ink",
    ),
    ("clamshell", "first_look=dots photos=pixels photos=clean", "pixel_faults", "single dots on every lit pattern"),
    (
        "clamshell",
        "first_look=lines squeeze=edge hinge=no warm_cool=changes",
        "cell_flex",
        "lines that a press on the bonded edge changes",
    ),
    (
        "clamshell",
        "first_look=lines hinge=no squeeze=plug onset=repair",
        "connector",
        "a plug that is not home after a repair",
    ),
    (
        "clamshell",
        "first_look=wrong ramp=bits hinge=yes external_output=clean",
        "cable connector",
        "missing steps in one colour: an open data pair",
    ),
    (
        "clamshell",
        "first_look=glow onset=repair opened_before=display edid=other label=other",
        "wrong_panel wrong_signal",
        "ordered for the wrong variant",
    ),
    (
        "handset",
        "first_look=ghost photos=retained onset=slowly fades=stays",
        "wear",
        "a picture that stays and does not fade",
    ),
    (
        "tablet",
        "first_look=tint photos=tint rim_marks=some opened_before=display",
        "stain",
        "glue under the panel stains it",
    ),
    (
        "tablet",
        "first_look=uneven photos=bleed photos=zones onset=repair film_off=better",
        "frame_pressure adhesive_or_film",
        "a long screw or frame that presses",
    ),
    (
        "handset",
        "first_look=touch touch_draw=half touch_soak=silent onset=repair controller_paired=foreign",
        "touch_controller",
        "a half-dead new display: its controller",
    ),
    (
        "handset",
        "first_look=touch touch_draw=strip touch_soak=silent",
        "row_or_column_sense_line",
        "one strip: a sense line",
    ),
    ("handset", "first_look=touch touch_draw=corner impact=glass", "digitizer_glass", "a dead corner: glass or bond"),
    (
        "handset",
        "first_look=touch touch_soak=silent touch_soak_charger=rows",
        "charger_noise",
        "phantom touches gone on battery",
    ),
    (
        "handset",
        "first_look=touch touch_soak=spot film_off=better onset=repair",
        "adhesive_or_film",
        "phantom touches at one spot after a rebuild",
    ),
    (
        "handset",
        "first_look=touch touch_draw=all touch_flex_look=faulty",
        "touch_flex",
        "nothing answers and the plug is torn",
    ),
    (
        "clamshell",
        "first_look=black sound=yes lid_magnet=asleep lamp_supply=no_enable",
        "lid_sensor",
        "it thinks the lid is shut",
    ),
    (
        "clamshell",
        "first_look=black sound=no onset=repair keys_after_rebuild=no",
        "board_seat",
        "keys dead since the rebuild: the board is not seated",
    ),
    ("clamshell", "liquid_traces=some onset=liquid first_look=uneven", "liquid", "drips under the frame"),
    (
        "all_in_one",
        "first_look=flicker flicker_at_full=yes light=dim brightness_keys=dark",
        "lamp_driver",
        "flicker at full brightness: the lamp driver",
    ),
    (
        "all_in_one",
        "first_look=black power=same panel_supply=none sound=no external_output=none",
        "main_board",
        "no supply at the panel's plug",
    ),
    (
        "handset",
        "first_look=wrong onset=update update=wrong before_os=there",
        "firmware",
        "wrong colours since an update, before the system too",
    ),
    (
        "handset",
        "first_look=ghost fades=fades",
        "retention",
        "a picture that stays and fades again is retained, not worn in",
    ),
    ("clamshell", "first_look=dots wipe_angle=shifts", "dirt", "what shifts against the pixels lies above them"),
    (
        "tablet",
        "first_look=uneven onset=repair film_on=film",
        "film_left",
        "a film that was left on looks like a fault",
    ),
    (
        "clamshell",
        "first_look=fine external_output=only_there",
        "as_built",
        "a fault on the other screen alone is none of this device",
    ),
    (
        "clamshell",
        "first_look=glow external_output=clean known_cable=same known_panel=same self_test=clean",
        "board_output",
        "cable and panel exchanged without effect: the board's output",
    ),
    (
        "clamshell",
        "first_look=uneven onset=repair photos=zones film_off=same since_dry_fit=before repair:relieve=same",
        "reflector",
        "uneven light since the panel was opened: a reflector or diffuser was left out",
    ),
    (
        "handset",
        "first_look=dim onset=repair sensor_cover=wrong",
        "sensor_covered",
        "dim since the repair: the sensor is covered",
    ),
    ("tablet", "first_look=uneven battery_bulge=bulges", "swollen_battery", "a swollen battery presses on the panel"),
    (
        "handset",
        "first_look=touch onset=repair since_dry_fit=before touch_draw=strip old_panel=clean",
        "delivered_faulty",
        "faulty at the dry fit already, and the old one is not: it was delivered so",
    ),
)


def items(text: str) -> list[EvidenceItem]:
    return [
        EvidenceItem(check=check, outcome=outcome)
        for check, _, outcome in (part.partition("=") for part in text.split())
    ]


class Trade(TestCase):
    def test_each_case_ends_at_its_cause(self) -> None:
        for device, text, wanted, fact in CASES:
            told = diagnose(device, items(text))
            self.assertIn(told.causes[0].id, wanted.split(), f"{fact}: {[(c.id, c.p) for c in told.causes[:3]]}")

    def test_nearly_every_cause_has_a_case(self) -> None:
        cases = {name for _, _, wanted, _ in CASES for name in wanted.split()}
        self.assertLessEqual(set(load_model().causes) - cases, {"driver_chip", "timing_board"})

    def test_reseating_comes_before_a_new_panel(self) -> None:
        told = diagnose("clamshell", items("photos=lines"))
        repairs = [step.id for step in told.next if step.kind == "repair"]
        self.assertLess(repairs.index("reseat"), repairs.index("panel"))

    def test_a_dead_cable_buys_no_panel(self) -> None:
        # the dearest mistake: with the hinge's word the plan ends at the cable
        told = diagnose(
            "clamshell",
            items("first_look=lines hinge=yes squeeze=no external_output=clean onset=suddenly opened_before=no"),
        )
        self.assertEqual(next(step.id for step in told.plan if step.kind == "repair"), "cable")


class MadeUpJobs(TestCase):
    def test_the_advised_way_beats_fixed_ways(self) -> None:
        model = load_model()
        jobs = [make_job(model, seed) for seed in range(120)]
        courses = [follow(model, job) for job in jobs]
        cost = sum(course.cost for course in courses)
        order = [
            "panel",
            "reseat",
            "settings",
            "charge",
            "cable",
            "lamp_driver",
            "glass",
            "relieve",
            "controller",
            "touch_flex",
            "sensor",
            "board",
        ]
        self.assertLess(cost, 0.7 * sum(repaired_in_order(model, job, order) for job in jobs))
        self.assertGreater(sum(course.right_at_end for course in courses) / len(courses), 0.85)

    def test_jobs_are_repeatable_and_differ_from_the_model_as_told(self) -> None:
        model = load_model()
        self.assertEqual(follow(model, make_job(model, 5)), follow(model, make_job(model, 5)))
        plain, altered = make_job(model, 5), make_job(model, 5, Altered(likelihoods=0.2))
        row, other = (
            plain.shows["hinge" if "hinge" in plain.shows else "light"],
            altered.shows["hinge" if "hinge" in plain.shows else "light"],
        )
        self.assertTrue(0 < abs(row - other).max() < 0.3)
        self.assertEqual(make_job(model, 5, Altered(unknown=1.0)).truth, frozenset())
        self.assertEqual({make_job(model, seed).device for seed in range(40)}, set(DEVICES))
