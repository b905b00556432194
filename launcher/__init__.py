"""Preparing the machine, the private database and the processes. Standard library only: it runs before anything is installed."""
