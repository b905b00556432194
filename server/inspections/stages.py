"""The stages at which a device is looked at, and their titles."""

STAGES = {
    "received": "At intake",
    "inspect": "As received",
    "external": "External output",
    "dry_fit": "Dry fit",
    "closed": "Closed",
    "recheck": "Re-test",
}
