"""What a command's exit code says."""

BY_VERDICT = {"pass": 0, "fail": 1, "not_proven": 3}
BAD_INPUT = 2
