"""Lines of the server that decide: what is forgotten when, who gives up when, what is read out of earlier takes."""

from __future__ import annotations

from datetime import timedelta
from itertools import pairwise
from statistics import pstdev

import pytest
from apps.jobs import services as jobs
from apps.people import audit
from apps.people.actor import require_lead, require_teacher
from apps.people.models import AuditEntry, User
from apps.people.services import add_student
from apps.plans import ladders
from apps.plans import services as plans
from apps.plans.models import Assignment, LadderMove
from apps.takes import pooled, selectors, services
from apps.takes.models import Take
from config.problems import ServiceError
from django.utils import timezone
from fortimetra import Drill as DrillContent
from fortimetra.drills.library import built_in_drills
from fortimetra.model.ladder import LadderRule, Step

from tests.server.conftest import change_job, job_of
from tests.server.made import Clock, made_take

pytestmark = pytest.mark.django_db


@pytest.fixture
def clock(monkeypatch):
    return Clock(monkeypatch)


# --- the record of who saw and changed what


def test_entries_older_than_two_years_are_forgotten_and_counted(teacher, student):
    now = timezone.now()
    AuditEntry.objects.all().delete()
    for days in (729, 731, 800):
        audit.changed(teacher, "changed_studio", what=str(days))
        AuditEntry.objects.filter(what=str(days)).update(at=now - timedelta(days=days))
    assert audit.forget_old() == 2
    assert list(AuditEntry.objects.values_list("what", flat=True)) == ["729"]


def test_looking_again_on_a_day_is_one_look(teacher, student):
    AuditEntry.objects.all().delete()
    for _ in range(3):
        audit.saw(teacher, "saw_take", student=student, what="t", object_id=1)
    assert AuditEntry.objects.count() == 1
    audit.saw(teacher, "saw_take", student=student, what="t", object_id=2)
    assert AuditEntry.objects.count() == 2


def test_long_words_and_numbers_of_the_record_are_cut_not_refused(teacher, student):
    audit.changed(teacher, "changed_studio", student=student, what="w" * 300, object_id="9" * 60)
    entry = AuditEntry.objects.latest("pk")
    assert (len(entry.what), len(entry.object_id), entry.actor_name) == (250, 40, "Ada")


def test_what_the_program_did_names_the_program(student):
    audit.changed(None, "stepped", student=student)
    entry = AuditEntry.objects.latest("pk")
    assert (entry.actor, entry.actor_name, entry.studio_id) == (None, "Fortimetra", student.studio_id)


def test_after_a_student_left_the_record_names_nobody(teacher, student):
    kept = add_student(teacher, name="Mo")
    AuditEntry.objects.all().delete()
    audit.changed(teacher, "changed_studio", what="Harbour")
    audit.changed(teacher, "deleted_take", student=student, what="secret of Nele")
    audit.changed(teacher, "deleted_take", student=kept, what="of Mo")
    AuditEntry.objects.filter(what="secret of Nele").update(student=None)
    AuditEntry.objects.create(
        studio=teacher.studio, at=timezone.now(), actor=None, actor_name="Nele", action="left", what="x"
    )
    audit.forget_names(teacher.studio, ["Nele"])
    rows = set(AuditEntry.objects.values_list("actor_name", "action", "what"))
    assert rows == {
        ("Ada", "changed_studio", "Harbour"), ("Ada", "deleted_take", ""), ("Ada", "deleted_take", "of Mo"),
        ("a former student", "left", ""),
    }  # fmt: skip


# --- who may


@pytest.mark.parametrize(
    ("role", "leads", "check", "may"),
    [
        (User.Role.TEACHER, True, require_teacher, True),
        (User.Role.TEACHER, False, require_teacher, True),
        (User.Role.STUDENT, False, require_teacher, False),
        (User.Role.TEACHER, True, require_lead, True),
        (User.Role.TEACHER, False, require_lead, False),
        (User.Role.STUDENT, True, require_lead, False),
    ],
)
def test_only_a_teacher_and_only_who_leads(role, leads, check, may):
    actor = User(role=role, leads=leads)
    if may:
        check(actor)
        return
    with pytest.raises(ServiceError) as refused:
        check(actor)
    assert (refused.value.status, refused.value.code) == (403, "not_allowed")


# --- work that waits for a worker


def test_a_claim_runs_out_only_after_its_lease(make_take, clock):
    take = make_take()
    mine = jobs.claim(services.MEASURING, take.pk)
    assert mine is not None
    row = job_of(take)
    assert (row.attempts, row.fraction, row.stage) == (1, 0.0, "")
    assert row.claimed_until - timezone.now() == jobs.LEASE
    clock.go(jobs.LEASE.seconds)
    assert jobs.claim(services.MEASURING, take.pk) is None
    assert jobs.sweep() == 0
    clock.go(1)
    assert jobs.sweep() == 1
    assert jobs.report(mine, stage="levels", fraction=0.5)
    clock.go(jobs.LEASE.seconds + 1)
    assert jobs.claim(services.MEASURING, take.pk) is not None
    assert not jobs.report(mine)


def test_a_message_counts_as_lost_only_after_its_patience(make_take, clock):
    take = make_take()
    jobs.enqueue(services.MEASURING, [str(take.pk)])
    clock.go(services.MEASURING.patience.seconds)
    assert jobs.sweep() == 0
    clock.go(1)
    assert jobs.sweep() == 1
    assert jobs.sweep(all_waiting=True) == 1


def test_a_take_is_given_up_at_its_last_attempt(make_take, settings):
    take = make_take()
    change_job(take, attempts=settings.TAKE_ATTEMPTS - 1)
    assert jobs.claim(services.MEASURING, take.pk) is not None
    change_job(take, state="waiting")
    assert jobs.claim(services.MEASURING, take.pk) is None
    assert Take.objects.get(pk=take.pk).state == Take.State.FAILED


def test_a_take_in_work_is_not_measured_again(teacher, make_take):
    take = make_take()
    jobs.claim(services.MEASURING, take.pk)
    take.refresh_from_db()
    with pytest.raises(ServiceError) as refused:
        services.measure_again(teacher, take)
    assert (refused.value.status, refused.value.code) == (409, "being_measured")


# --- what earlier takes say


def _note(string, fret, hz, /, u=2.0, **more):
    return {
        "status": "played", "bend": None, "vibrato": None, "string": string, "fret": fret,
        "pitch": None if hz is None else {"median_hz": hz, "u": u},
    } | more  # fmt: skip


def _sharp(midi, cents):
    return 440.0 * 2.0 ** ((midi - 69) / 12 + cents / 1200)


@pytest.fixture
def earlier(student, guitar, drill):
    """Writes an earlier take of the guitar with these notes."""

    def write(notes, *, ago_min=60):
        take = made_take(student, drill, ago_min=ago_min)
        Take.objects.filter(pk=take.pk).update(guitar=guitar)
        take.current.content = {"notes": notes}
        take.current.save(update_fields=["content"])
        return take

    return write


BENDS = next(d for d in built_in_drills() if d.family == "bend_in_scale")
D4 = 62  # string 3, fret 7


def fretted(student, guitar, drill, content=BENDS):
    take = made_take(student, drill)
    take.guitar = guitar
    return {(f.string, f.fret): (f.error_cents, f.u) for f in pooled.fretted_notes(take, content)}


def test_the_median_of_each_place_with_twice_the_scatter(student, guitar, drill, earlier):
    earlier([_note(3, 7, _sharp(D4, c)) for c in (4.0, 8.0, 30.0)])
    ((place, (error, u)),) = fretted(student, guitar, drill).items()
    assert place == (3, 7)
    assert error == pytest.approx(8.0, abs=0.01)
    assert u == pytest.approx(2.0 * pstdev([4.0, 8.0, 30.0]), abs=0.01)


def test_one_note_of_another_day_is_good_to_five_cents_and_never_better_than_it_was_read(
    student, guitar, drill, earlier
):
    earlier([_note(3, 7, _sharp(D4, 4.0), u=1.0), _note(3, 9, _sharp(D4 + 2, -3.0), u=9.0)])
    found = fretted(student, guitar, drill)
    assert found[3, 7] == pytest.approx((4.0, 5.0), abs=0.01)
    assert found[3, 9] == pytest.approx((-3.0, 9.0), abs=0.01)
    earlier([_note(3, 9, _sharp(D4 + 2, -3.0), u=9.0)], ago_min=30)
    assert fretted(student, guitar, drill)[3, 9][1] == pytest.approx(9.0, abs=0.01)


@pytest.mark.parametrize(
    "more",
    [{"status": "missed"}, {"bend": {}}, {"vibrato": {}}, {"pitch": None}, {"pitch": {"median_hz": None, "u": 1.0}},
     {"pitch": {"median_hz": 440.0, "u": None}}, {"string": 7}],
)  # fmt: skip
def test_what_is_no_plain_note_says_nothing_of_the_guitar(student, guitar, drill, earlier, more):
    earlier([_note(3, 7, _sharp(D4, 4.0), **more)])
    assert fretted(student, guitar, drill) == {}


@pytest.mark.parametrize(("cents", "counts"), [(49.0, True), (-49.0, True), (51.0, False), (-51.0, False)])
def test_a_note_half_a_step_away_was_another_one(student, guitar, drill, earlier, cents, counts):
    earlier([_note(3, 7, _sharp(D4, cents))])
    assert bool(fretted(student, guitar, drill)) is counts


def test_only_a_drill_with_bends_and_a_known_guitar_asks(student, guitar, drill, earlier):
    earlier([_note(3, 7, _sharp(D4, 4.0))])
    plain = BENDS.model_copy(update={"events": tuple(e.model_copy(update={"bend": None}) for e in BENDS.events)})
    assert fretted(student, guitar, drill, plain) == {}
    assert fretted(student, None, drill) == {}


def test_a_later_take_and_a_set_up_say_nothing(student, guitar, drill, earlier):
    take = earlier([_note(3, 7, _sharp(D4, 4.0))], ago_min=-60)
    assert fretted(student, guitar, drill) == {}
    Take.objects.filter(pk=take.pk).update(played_at=timezone.now() - timedelta(hours=1))
    assert fretted(student, guitar, drill) != {}
    Take.objects.filter(pk=take.pk).update(drill_version=drill.studio.drills.get(title="Set-up check").current)
    assert fretted(student, guitar, drill) == {}


def _vibratos(on, string, **more):
    return {
        "on": on,
        "string": string,
        "count": 2,
        "rate_hz": 5.0,
        "extent_cents": 60.0,
        "rate_cv": 0.1,
        "extent_cv": 0.2,
    } | more


def test_the_voice_counts_adds_and_orders(teacher, student):
    drill = teacher.studio.drills.filter(family="vibrato_fretted").first()
    made_take(student, drill, vibratos=[_vibratos("bent", 2), _vibratos("fretted", 3, rate_hz=4.0, count=3)])
    made_take(
        student, drill, vibratos=[_vibratos("fretted", 3, rate_hz=6.0, extent_cents=80.0), _vibratos("fretted", 1)]
    )
    rows = pooled.voice(teacher, student)
    assert [(r["on"], r["string"], r["takes"], r["count"]) for r in rows] == [
        ("fretted", 1, 1, 2), ("fretted", 3, 2, 5), ("bent", 2, 1, 2),
    ]  # fmt: skip
    assert rows[1]["rate_hz"] == 5.0
    assert rows[1]["rate_range"] == (4.0, 6.0)
    assert rows[1]["extent_range"] == (60.0, 80.0)


@pytest.mark.parametrize(
    ("state", "code", "status", "says"),
    [(Take.State.REFUSED, "too_short", 422, "too_short"), (Take.State.FAILED, "x", 422, "x"),
     (Take.State.QUEUED, "", 409, "not_measured_yet")],
)  # fmt: skip
def test_why_there_is_no_analysis(teacher, make_take, state, code, status, says):
    take = make_take()
    Take.objects.filter(pk=take.pk).update(state=state, problem_code=code, problem_detail="d")
    with pytest.raises(ServiceError) as refused:
        selectors.analysis(teacher, take.pk)
    assert (refused.value.status, refused.value.code) == (status, says)


# --- ladders


@pytest.fixture
def assignment(teacher, student, drill):
    terms = plans.Terms(
        minutes=3.0, days=5, begins=timezone.localdate(), ends=None, note="", rule=LadderRule(), goal=None,
        moves=Assignment.Moves.CONFIRMED, sharing=Assignment.Sharing.WEAKER,
    )  # fmt: skip
    return plans.assign(teacher, student, drill, terms=terms, step=Step(bpm=66.0), pair=None)


def test_a_step_said_by_the_teacher_is_written_down_with_its_reason(teacher, assignment):
    after = ladders.set_step(teacher, assignment, Step(bpm=50.0), why="  tired ")
    assert after.step["bpm"] == 50.0
    move = LadderMove.objects.get(assignment=assignment)
    assert (move.move, move.says) == ("set", "Set to 50 bpm by Ada: tired")


@pytest.mark.parametrize("do", ["confirm", "put_off", "ended"])
def test_what_is_no_longer_proposed_is_a_conflict(teacher, assignment, do):
    with pytest.raises(ServiceError) as refused:
        if do == "confirm":
            ladders.confirm(teacher, assignment, says="x")
        elif do == "put_off":
            ladders.put_off(teacher, assignment)
        else:
            assignment.ended_at = timezone.now()
            assignment.save()
            ladders.set_step(teacher, assignment, Step(bpm=50.0), why="")
    assert refused.value.status == 409
    assert refused.value.code == ("ended" if do == "ended" else "nothing_proposed")


def test_what_is_put_off_is_written_down_as_far_as_there_is_room(teacher, assignment):
    assignment.standing = {"move": "up", "to": None, "says": "w" * 600, "takes": []}
    assignment.save(update_fields=["standing"])
    before = assignment.step_since
    ladders.put_off(teacher, assignment)
    move = LadderMove.objects.get(assignment=assignment)
    assert (move.move, move.says[:19], len(move.says)) == ("put_off", "Put off by Ada: www", 500)
    assignment.refresh_from_db()
    assert assignment.step_since > before


@pytest.mark.parametrize(("step", "code"), [(Step(bpm=None), "no_tempo"), (Step(bpm=60.0, per_click=3), None)])
def test_a_step_has_to_fit_its_drill(drill, step, code):
    content = DrillContent.model_validate(drill.current.content)
    with pytest.raises(ServiceError) as refused:
        ladders.check_step_of(content, step)
    assert refused.value.status == 422
    assert code is None or refused.value.code == code


def test_the_steps_to_choose_from_go_both_ways_in_order(teacher, assignment):
    steps = [s.bpm for s in ladders.further_steps(assignment, around=3)]
    assert steps == sorted(steps)
    assert len(steps) == 7
    assert steps[3] == assignment.step["bpm"]
    assert {round(b - a, 6) for a, b in pairwise(steps)} == {4.0}
