import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data } from "~/api/client";
import { drillsQuery } from "~/api/queries";
import { guestLinksQuery } from "~/api/week";
import { useAct } from "~/lib/useAct";
import { day } from "~/lib/words";
import { Button } from "~/ui/Button";
import { LinkOnce } from "~/ui/LinkOnce";
import { Select } from "~/ui/Select";
import { Failed } from "~/ui/states";

/** One recording by somebody without an account. */
export function GuestLinks({ studentId, zone }: { studentId: number; zone: string }) {
  const drills = useQuery(drillsQuery);
  const links = useQuery(guestLinksQuery(studentId));
  const [drill, setDrill] = useState("");
  const make = useAct(
    () =>
      data(api.POST("/api/v1/guests/links", { body: { student_id: studentId, drill_id: Number(drill) } })),
    [["guests"]],
  );
  const withdraw = useAct(
    (id: string) => api.DELETE("/api/v1/guests/links/{link_id}", { params: { path: { link_id: id } } }),
    [["guests"]],
  );
  return (
    <div>
      <div className="flex flex-wrap items-end gap-3">
        <div className="w-72 min-w-0">
          <Select
            label="One recording without an account, of"
            value={drill}
            onChange={setDrill}
            choices={(drills.data ?? [])
              .filter((d) => !d.archived)
              .map((d) => ({ value: String(d.id), label: d.title }))}
          />
        </div>
        <Button className="min-h-9" disabled={!drill || make.isPending} onClick={() => make.mutate()}>
          Make a link
        </Button>
      </div>
      {make.data?.link && (
        <LinkOnce link={make.data.link} says="Good for one recording and two weeks; it is shown only now." />
      )}
      <ul className="mt-2">
        {(links.data ?? []).map((link) => (
          <li key={link.id} className="flex items-baseline gap-3 border-b border-rule py-1 text-sm">
            <span className="mr-auto">{link.drill}</span>
            <span className="text-ink-soft">
              {link.used ? "used" : `open until ${day(link.expires_at, zone)}`}
            </span>
            <Button kind="quiet" onClick={() => withdraw.mutate(link.id)}>
              Take it back
            </Button>
          </li>
        ))}
      </ul>
      {(make.error ?? withdraw.error) && <Failed error={make.error ?? withdraw.error} />}
    </div>
  );
}
