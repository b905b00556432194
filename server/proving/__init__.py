"""The one verdict of a job, and what Prove asks for beside photos and touch."""
