import type { Me } from "~/api/client";
import type { DeskAsked } from "~/api/queries";
import { Button } from "~/ui/Button";
import { Empty } from "~/ui/states";

/** An empty Desk: why, and what to do. */
export function Nothing({
  filter,
  filtered,
  me,
  onAll,
}: {
  filter: DeskAsked;
  filtered: boolean;
  me: Me;
  onAll: () => void;
}) {
  if (filtered)
    return (
      <Empty title="No take fits what is shown">
        <Button onClick={onAll}>Show all students and drills</Button>
      </Empty>
    );
  if (filter.show === "waiting" && me.role === "teacher")
    return (
      <Empty title="Nothing waits to be judged">
        New takes come here by themselves. Drop a recording anywhere on this page, or use “Add a recording”
        (key U). WAV, FLAC, AIFF, OGG, Opus, WebM, MP3 and M4A are read, up to {me.upload_max_bytes / 1e6} MB
        and {me.take_max_minutes} minutes.
      </Empty>
    );
  return (
    <Empty title="No takes here yet">
      Drop a recording anywhere on this page, or use “Add a recording” (key U). WAV, FLAC, AIFF, OGG, Opus,
      WebM, MP3 and M4A are read, up to {me.upload_max_bytes / 1e6} MB and {me.take_max_minutes} minutes.
    </Empty>
  );
}
