"""Tests. What our own code warns of is an error in them; what libraries say among themselves is shown."""

import warnings

warnings.filterwarnings("error", module=r"(lens|server|launcher|cli|benchmarks|tests)(\.|$)")
