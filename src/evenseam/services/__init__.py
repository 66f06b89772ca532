"""Use cases: one file each, one transaction each, no HTTP."""
