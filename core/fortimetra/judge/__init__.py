"""From numbers to verdicts and counts."""
