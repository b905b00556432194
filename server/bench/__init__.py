"""The job's screen: everything of one job put together."""
