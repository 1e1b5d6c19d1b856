import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { Me } from "~/api/client";
import { takeOutUnnamed, type Unnamed, unnamed } from "~/lib/unnamed";
import { dayAndTime } from "~/lib/words";
import { Button } from "~/ui/Button";
import { SmallPlayer } from "~/ui/SmallPlayer";
import { Sure } from "~/ui/Sure";
import { timeWords } from "~/ui/smallPlayer.math";
import { ManyDialog } from "~/ui/upload/ManyDialog";

const KEY = ["unnamed"] as const;

/** Recordings of this browser that nobody has named yet. */
export function UnnamedList({ me }: { me: Me }) {
  const queries = useQueryClient();
  const kept = useQuery({ queryKey: KEY, queryFn: unnamed, staleTime: 0, networkMode: "always" });
  const [naming, setNaming] = useState<Unnamed | null>(null);
  const look = () => queries.invalidateQueries({ queryKey: KEY });
  if (!kept.data || kept.data.length === 0) return null;
  return (
    <section aria-label="Recordings without a name" className="mb-6" data-testid="unnamed">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">Not named yet</h2>
      <ul>
        {kept.data.map((one) => (
          <li key={one.id} className="flex flex-wrap items-center gap-x-5 gap-y-2 border-b border-rule py-2">
            <span className="tabular-nums">{dayAndTime(one.madeAt, me.zone)}</span>
            <span className="figures w-14 text-right text-sm text-ink-soft">{timeWords(one.seconds)}</span>
            <SmallPlayer sound={one.sound} label={`the recording of ${dayAndTime(one.madeAt, me.zone)}`} />
            <Button kind="strong" onClick={() => setNaming(one)}>
              Say what it is
            </Button>
            <Delete id={one.id} />
          </li>
        ))}
      </ul>
      {naming && (
        <ManyDialog
          me={me}
          files={[fileOf(naming)]}
          recorded={{ at: naming.madeAt, capture: naming.capture }}
          onSent={() => void takeOutUnnamed(naming.id)}
          onClose={() => {
            setNaming(null);
            void look();
          }}
        />
      )}
    </section>
  );
}

function Delete({ id }: { id: string }) {
  const queries = useQueryClient();
  const act = useMutation({
    mutationFn: () => takeOutUnnamed(id),
    onSuccess: () => queries.invalidateQueries({ queryKey: KEY }),
  });
  return (
    <Sure
      label="Delete"
      title="Delete this recording?"
      says="It is in this browser only; deleted it is gone for good."
      yes="Delete it"
      no="Keep it"
      act={act}
    />
  );
}

function fileOf(one: Unnamed): File {
  return new File([one.sound], `take ${one.madeAt.slice(0, 16).replace(":", "-")}.wav`, {
    type: "audio/wav",
  });
}
