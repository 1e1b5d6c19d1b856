import type { UseMutationResult } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Button } from "./Button";
import { Dialog } from "./Dialog";
import { Failed } from "./states";

/** A button for what cannot be taken back: it is asked once. */
export function Sure({
  label,
  title,
  says,
  yes,
  no,
  act,
  kind = "quiet",
}: {
  label: ReactNode;
  title: string;
  says: string;
  yes: string;
  no: string;
  act: UseMutationResult<unknown, Error, void>;
  /** What is expected next has a border, what is seldom wanted none. */
  kind?: "plain" | "quiet";
}) {
  const [asking, setAsking] = useState(false);
  return (
    <>
      <Button
        kind={kind}
        className="min-h-9"
        onClick={() => {
          act.reset(); // what went wrong the last time is over
          setAsking(true);
        }}
      >
        {label}
      </Button>
      <Dialog open={asking} onOpenChange={setAsking} title={title} description={says}>
        {act.error && <Failed error={act.error} />}
        <div className="flex justify-end gap-3">
          <Button onClick={() => setAsking(false)}>{no}</Button>
          <Button
            kind="strong"
            disabled={act.isPending}
            onClick={() => act.mutate(undefined, { onSuccess: () => setAsking(false) })}
          >
            {yes}
          </Button>
        </div>
      </Dialog>
    </>
  );
}
