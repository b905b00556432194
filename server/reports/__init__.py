"""Reports of a job."""
