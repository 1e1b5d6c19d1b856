import { useState } from "react";
import type { Me } from "~/api/client";
import type { DeskAsked } from "~/api/queries";
import { Button } from "~/ui/Button";
import { Empty } from "~/ui/states";
import { FirstSteps } from "./FirstSteps";

const DISMISSED = "fortimetra.first-steps-dismissed";

/** An empty Desk: why, and what to do. */
export function Nothing({
  filter,
  filtered,
  fresh,
  me,
  onAll,
}: {
  filter: DeskAsked;
  filtered: boolean;
  /** No take was ever sent here. */
  fresh: boolean;
  me: Me;
  onAll: () => void;
}) {
  const [dismissed, setDismissed] = useState(() => window.localStorage.getItem(DISMISSED) === "yes");
  if (filtered)
    return (
      <Empty title="No take fits what is shown">
        <Button onClick={onAll}>Show all students and drills</Button>
      </Empty>
    );
  if (fresh && me.role === "teacher" && !dismissed)
    return (
      <FirstSteps
        me={me}
        onDismiss={() => {
          window.localStorage.setItem(DISMISSED, "yes");
          setDismissed(true);
        }}
      />
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
