"""What teacher and student work out in their heads today: calculators, targets, reference tones, the ear check."""
