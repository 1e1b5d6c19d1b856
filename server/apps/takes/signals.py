"""What others may want to know of takes."""

from django.dispatch import Signal

# Sent with student_id and drill_id after what counts in a take has changed: measured, marked, kept, deleted.
settled = Signal()
