import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { csrfToken, type Me, problemFrom } from "~/api/client";
import { Button, buttonClass } from "~/ui/Button";
import { Failed } from "~/ui/states";

type Reading = { state: "idle" } | { state: "sending"; fraction: number } | { state: "done"; says: string };

/** The whole studio as one file, and back. */
export function Archive({ me }: { me: Me }) {
  const input = useRef<HTMLInputElement>(null);
  const [reading, setReading] = useState<Reading>({ state: "idle" });
  const [error, setError] = useState<unknown>(null);
  const queries = useQueryClient();
  const send = (file: File) => {
    setError(null);
    setReading({ state: "sending", fraction: 0 });
    const form = new FormData();
    form.set("file", file);
    const xhr = new XMLHttpRequest();
    xhr.open("POST", "/api/v1/reports/archive");
    xhr.setRequestHeader("X-CSRFToken", csrfToken());
    xhr.upload.onprogress = (event) =>
      event.lengthComputable && setReading({ state: "sending", fraction: event.loaded / event.total });
    const failed = (status: number, text: string) => {
      setReading({ state: "idle" });
      setError(problemFrom(status, text));
    };
    xhr.onload = () => {
      if (xhr.status !== 200) return failed(xhr.status, xhr.responseText);
      setReading({ state: "done", says: (JSON.parse(xhr.responseText) as { says: string }).says });
      void queries.invalidateQueries();
    };
    xhr.onerror = () => failed(0, "");
    xhr.send(form);
  };
  return (
    <section aria-label="Archive">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">Archive</h2>
      <p className="mt-2 text-sm text-ink-soft">
        Everything of {me.studio} in one file of open formats: recordings, results, drills, plans, logbook. No
        passwords are in it. It reads in on another installation, in a studio without students, whole or not
        at all.
      </p>
      <div className="mt-3 flex flex-wrap gap-2">
        <a className={buttonClass()} href="/api/v1/reports/archive" download data-testid="take-out">
          Take the archive out
        </a>
        <Button onClick={() => input.current?.click()} disabled={reading.state === "sending"}>
          Read one in
        </Button>
        <input
          ref={input}
          type="file"
          accept=".zip"
          className="sr-only"
          tabIndex={-1}
          aria-label="Archive file"
          data-testid="archive-file"
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = "";
            if (file) send(file);
          }}
        />
      </div>
      {reading.state === "sending" && (
        <p role="status" className="mt-3 flex items-center gap-3">
          <progress
            className="h-1.5 w-40 accent-ink"
            max={1}
            value={reading.fraction}
            aria-label="Sent so far"
          />
          {reading.fraction < 1 ? "sending" : "checking and reading in"}
        </p>
      )}
      {reading.state === "done" && (
        <p role="status" className="mt-3 border-l-4 border-ink bg-sheet px-4 py-2" data-testid="restored">
          {reading.says}
        </p>
      )}
      {error !== null && <Failed error={error} />}
    </section>
  );
}
