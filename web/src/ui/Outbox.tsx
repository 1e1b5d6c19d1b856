import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { takesQuery } from "~/api/queries";
import { onOutbox, sendAll, takeOut, type Waiting, waiting } from "~/lib/outbox";
import { Button } from "./Button";

const TRY_AGAIN_MS = 15_000;
// A take that has just been made is on its way already.
const YOUNG_MS = 4_000;

/** Takes that wait in this browser to be sent: sent by themselves when the server can be reached, and shown until then. */
export function Outbox() {
  const [left, setLeft] = useState<Waiting[]>([]);
  const queries = useQueryClient();
  useEffect(() => {
    let gone = false;
    const look = () =>
      void waiting().then(
        (found) => !gone && setLeft(found),
        () => {},
      );
    const send = () =>
      void sendAll().then(
        (sent) => {
          if (sent > 0) void queries.invalidateQueries({ queryKey: takesQuery.queryKey });
        },
        () => {},
      );
    look();
    send();
    const timer = window.setInterval(() => {
      if (navigator.onLine) send();
    }, TRY_AGAIN_MS);
    const forget = onOutbox(look);
    window.addEventListener("online", send);
    return () => {
      gone = true;
      window.clearInterval(timer);
      window.removeEventListener("online", send);
      forget();
    };
  }, [queries]);
  const shown = left.filter(
    (take) => take.refused !== null || Date.now() - Date.parse(take.playedAt) > YOUNG_MS,
  );
  if (shown.length === 0) return null;
  return (
    <div className="border-b border-rule-strong bg-sheet print:hidden" data-testid="outbox">
      <div className="mx-auto max-w-[1400px] px-6 py-2 text-sm">
        {shown.map((take) => (
          <p key={take.id} className="flex flex-wrap items-center gap-x-4">
            <span>
              A take of{" "}
              {new Date(take.playedAt).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}{" "}
              {take.refused ? `was not accepted: ${take.refused}` : "waits in this browser to be sent."}
            </span>
            <a className="underline" href={soundOf(take)} download={`take ${take.playedAt.slice(0, 16)}.wav`}>
              Save the sound
            </a>
            {take.refused && <Button onClick={() => void takeOut(take.id)}>Throw away</Button>}
          </p>
        ))}
      </div>
    </div>
  );
}

const addresses = new Map<string, string>();

function soundOf(take: Waiting): string {
  const known = addresses.get(take.id) ?? URL.createObjectURL(take.sound);
  addresses.set(take.id, known);
  return known;
}
