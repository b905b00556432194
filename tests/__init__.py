"""Tests. What our own code warns of is an error in them; what libraries say among themselves is shown, and so is what hangs on a machine's
arithmetic (a division that comes out as zero over zero on one and not on another)."""

import warnings

warnings.filterwarnings("error", module=r"(lens|server|launcher|cli|benchmarks|tests)(\.|$)")
warnings.filterwarnings("default", category=RuntimeWarning)
