"""What others may want to know of studios."""

from django.dispatch import Signal

# Sent with the studio, in the transaction that creates it: what every new studio begins with is added by who owns it.
studio_created = Signal()
# Sent with the student, in the transaction that moves them to another teacher.
handed_over = Signal()
# Sent with the student, in the transaction in which they leave the studio.
left = Signal()
# Sent once a day by a worker: what is kept for a time only is deleted by who owns it.
day_passed = Signal()
