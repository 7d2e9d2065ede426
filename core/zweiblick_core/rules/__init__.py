"""The rules of the job: pure functions, no I/O."""
