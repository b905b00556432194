"""The benchmark: accuracy, speed and reliability, measured on this machine and printed as tables."""

# reporting seeds start here and are never used for tuning
FIRST_REPORTING_SEED = 1000
