"""Rules of the job: what to do about what was measured."""
