"""Touch sessions of a job: recorded by the glass, imported, analysed; and re-tests that were asked for later."""
