"""./clear-lens benchmark photo|phone|paleness|diagnose|touch|reliability|lists|match|register|fit|handover|guided|raw: what benchmarks/ measures."""

import argparse

from benchmarks import FIRST_REPORTING_SEED


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "what",
        nargs="?",
        default="photo",
        choices=[
            "photo",
            "phone",
            "paleness",
            "diagnose",
            "touch",
            "reliability",
            "lists",
            "match",
            "register",
            "fit",
            "handover",
            "guided",
            "raw",
        ],
    )
    parser.add_argument("--sets", type=int, default=15, help="sets a row of the accuracy table; 0 leaves it out")
    parser.add_argument(
        "--zone-sets",
        type=int,
        default=20,
        help="sets a row of all other tables, fewer where a set takes long; 0 leaves them out",
    )
    parser.add_argument("--jobs", type=int, default=2000, help="made-up jobs a row of the diagnosis table")
    parser.add_argument("--list", action="store_true", help="name every missed fault and every false finding")
    parser.add_argument("--rounds", type=int, default=9, help="of the speed table; 0 leaves it out")
    parser.add_argument("--kills", type=int, default=200, help="of reliability: random kills; 0 leaves them out")
    parser.add_argument("--inputs", type=int, default=5000, help="of reliability: mutated inputs; 0 leaves them out")
    parser.add_argument("--load-s", type=float, default=60, help="of reliability: seconds of load; 0 leaves it out")
    parser.add_argument(
        "--full-disks", type=int, default=50, help="of reliability: disks that fill at a random byte; 0 leaves them out"
    )
    parser.add_argument(
        "--seed", type=int, default=FIRST_REPORTING_SEED, help="of all but photo, diagnose, touch, paleness"
    )


def run(options: argparse.Namespace) -> int:
    # each loads what it needs: the photo's tables take seconds to load
    if options.what == "diagnose":
        from benchmarks.diagnose import print_diagnose

        print_diagnose(options.jobs, FIRST_REPORTING_SEED)
    elif options.what == "touch":
        from benchmarks.touch import print_touch

        print_touch(options.zone_sets, FIRST_REPORTING_SEED)
    elif options.what == "paleness":
        from benchmarks.paleness import TUNING_SEED, print_paleness

        print_paleness(range(TUNING_SEED, TUNING_SEED + max(1, options.sets)))
    elif options.what == "phone":
        from benchmarks.phone import print_phone
        from benchmarks.phone_zones import print_phone_zones

        print_phone(options.sets, options.seed)
        print_phone_zones(options.zone_sets, options.seed)
    elif options.what == "reliability":
        from benchmarks.reliability import print_reliability

        return print_reliability(options.kills, options.inputs, options.load_s, options.full_disks, options.seed)
    elif options.what == "lists":
        from benchmarks.lists import print_lists

        return print_lists(options.seed)
    elif options.what == "match":
        from benchmarks.match import print_match

        return print_match(options.seed)
    elif options.what == "register":
        from benchmarks.register import print_register

        return print_register(options.seed)
    elif options.what == "handover":
        from benchmarks.handover import print_handover

        return print_handover(options.sets, options.seed)
    elif options.what == "guided":
        from benchmarks.guided import print_guided

        return print_guided(options.seed)
    elif options.what == "raw":
        from benchmarks.raw import print_raw

        print_raw(options.sets, options.seed)
    elif options.what == "fit":
        from benchmarks.fit import print_fit

        return print_fit(options.seed)
    else:
        from benchmarks.photo import print_photo

        print_photo(options.sets, options.zone_sets, options.rounds, options.list)
    return 0
