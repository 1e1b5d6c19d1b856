import type { AuditRow } from "~/api/week";
import { dayAndTime } from "~/lib/words";

const ACTIONS: Record<string, string> = {
  saw_take: "looked at a take",
  heard_take: "listened to a take",
  took_out_take: "took a take’s results out",
  took_out_recording: "downloaded a recording",
  saw_progress: "looked at the progress",
  saw_logbook: "looked at the logbook",
  deleted_take: "deleted a take",
  marked_take: "said something of a take",
  kept_trial: "measured a take otherwise",
  ordered_remeasuring: "had takes measured again",
  kept_remeasuring: "kept the new results of takes measured again",
  invited: "invited",
  withdrew_invitation: "took an invitation back",
  joined: "made an account",
  signed_in: "signed in",
  sign_in_failed: "did not get in: wrong password",
  changed_password: "changed the password",
  reset_password: "set a new password by a link",
  changed_address: "changed the e-mail address",
  set_second_factor: "turned two-factor sign-in on",
  removed_second_factor: "turned two-factor sign-in off",
  made_reset_link: "made a link for a new password",
  added_student: "added the student",
  gave_consent: "gave or entered consent to recording",
  withdrew_consent: "withdrew consent to recording",
  deleted_recording: "deleted a recording; its results stay",
  student_left: "noted that the student left",
  student_came_back: "took the student back in",
  changed_keeping: "changed how long things are kept",
  told_of_deletion: "announced what is about to be deleted, to a teacher",
  renamed_student: "renamed the student",
  handed_over: "handed the student over",
  parted_with: "parted with a colleague",
  gave_lead: "gave the lead to",
  changed_studio: "changed the studio",
  deleted_student: "deleted a student",
  made_guest_link: "made a guest link",
  withdrew_guest_link: "took a guest link back",
  guest_recorded: "received a guest’s recording",
  assigned: "assigned",
  changed_assignment: "changed an assignment",
  ended_assignment: "ended an assignment",
  confirmed_step: "confirmed a step",
  put_off_step: "put a step off",
  set_step: "set a step",
  stepped: "took a step",
  moved_day: "moved a day’s work",
  changed_practice: "changed the practice times",
  made_feed: "made a calendar address",
  ended_feed: "ended a calendar address",
  logged_practice: "logged practice",
  logged_note: "wrote in the logbook",
  logged_discomfort: "logged discomfort",
  deleted_log: "took a line out of the logbook",
  cleared_hold: "let the ladders go on",
  made_sheet: "made a lesson sheet",
  changed_sheet: "changed a lesson sheet",
  shared_sheet: "shared a lesson sheet",
  read_sheet: "read a lesson sheet",
  unshared_sheet: "took a sheet’s link back",
  deleted_sheet: "deleted a lesson sheet",
  took_out_archive: "took the archive out",
  took_out_own: "took out everything about themselves",
  restored: "read an archive in",
};

/** Who saw or changed what, newest first. */
export function AuditList({ rows, zone }: { rows: AuditRow[]; zone: string }) {
  if (rows.length === 0) return <p className="py-2 text-ink-soft">Nothing yet.</p>;
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is scrolled by keys, too
    <ul className="max-h-96 overflow-auto" aria-label="Activity" tabIndex={0} data-testid="audit">
      {rows.map((row, i) => (
        <li
          // biome-ignore lint/suspicious/noArrayIndexKey: the rows are never reordered, and several may be of one moment
          key={`${row.at}-${i}`}
          className="flex justify-between gap-4 border-b border-rule py-1 text-sm"
        >
          <span>
            {row.who} {ACTIONS[row.action] ?? row.action.replaceAll("_", " ")}
            {row.student && row.student !== row.who && (
              <span className="text-ink-soft"> ({row.student})</span>
            )}
            {row.what && <span className="text-ink-soft">: {row.what}</span>}
          </span>
          <span className="whitespace-nowrap text-ink-soft">{dayAndTime(row.at, zone)}</span>
        </li>
      ))}
    </ul>
  );
}
