"""Rules of the job: what to do about what was measured."""

from fortimetra.coach.cautions import PAIN, Caution, for_day
from fortimetra.coach.courses import BY_NAME, COURSES, Course, CoursePart
from fortimetra.coach.figures import FIGURES
from fortimetra.coach.ladder import LadderTake, Pair, Standing, next_step, standing, step_words
from fortimetra.coach.planner import Day, WantedDrill, week
from fortimetra.coach.progress import Pooled, Trend, pool_bends, trend
from fortimetra.coach.series import FOLLOWED, Followed, Value, share_interval, values_of
from fortimetra.coach.step import at_step, notes_per_click
from fortimetra.coach.word import with_word

__all__ = [
    "BY_NAME",
    "COURSES",
    "FIGURES",
    "FOLLOWED",
    "PAIN",
    "Caution",
    "Course",
    "CoursePart",
    "Day",
    "Followed",
    "LadderTake",
    "Pair",
    "Pooled",
    "Standing",
    "Trend",
    "Value",
    "WantedDrill",
    "at_step",
    "for_day",
    "next_step",
    "notes_per_click",
    "pool_bends",
    "share_interval",
    "standing",
    "step_words",
    "trend",
    "values_of",
    "week",
    "with_word",
]
