import { Link, useNavigate } from "react-router";
import type { Take } from "~/api/client";
import { dayAndTime } from "~/lib/words";
import { DeleteTake } from "./DeleteTake";

export function TakeHead({ take, zone }: { take: Take; zone: string }) {
  const navigate = useNavigate();
  const s = take.summary;
  return (
    <div className="mb-3 flex flex-wrap items-end gap-x-8 gap-y-2">
      <div className="mr-auto">
        <p className="text-sm text-ink-soft">
          <Link className="underline" to="/">
            Desk
          </Link>{" "}
          / {dayAndTime(take.played_at, zone)}
          {take.guitar && `, ${take.guitar}`}
          {take.invented && ", played by the simulated student (invented)"}
        </p>
        <h1 className="text-2xl font-bold">
          {take.student}:{" "}
          <Link className="font-semibold hover:underline" to={`/drills/${take.drill_id}`}>
            {take.drill}
          </Link>
        </h1>
      </div>
      {s && (
        <dl className="flex gap-6" data-testid="counts">
          <Count label="clean" value={s.clean} />
          <Count label="not clean" value={s.not_clean} />
          <Count label="cannot tell" value={s.unclear} />
          <Count label="missed" value={s.missed} />
          <Count label="extra" value={s.extra} />
        </dl>
      )}
      {take.state === "measured" && <DeleteTake take={take} onDeleted={() => navigate("/")} />}
    </div>
  );
}

function Count({ label, value }: { label: string; value: number }) {
  return (
    <div className="flex flex-col-reverse">
      <dt className="text-sm text-ink-soft">{label}</dt>
      <dd className="figures text-xl leading-6 font-semibold">{value}</dd>
    </div>
  );
}
