import { useMutation, useQuery } from "@tanstack/react-query";
import { QRCodeSVG } from "qrcode.react";
import { useState } from "react";
import {
  recoveryCodes,
  sayPassword,
  secondStepState,
  turnOffSecondStep,
  turnOnSecondStep,
} from "~/api/session";
import { useAct } from "~/lib/useAct";
import { Button } from "~/ui/Button";
import { Field } from "~/ui/form/Field";
import { Failed, Loading } from "~/ui/states";

const KEY = ["account", "second-step"];

/** A code of the telephone beside the password. */
export function SecondStep() {
  const state = useQuery({ queryKey: KEY, queryFn: secondStepState });
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const [codes, setCodes] = useState<string[] | null>(null);
  const said = useMutation({ mutationFn: () => sayPassword(password) });
  const on = useAct(
    () => turnOnSecondStep(code),
    [KEY],
    (kept) => {
      setCodes(kept);
      setCode("");
    },
  );
  const off = useAct(turnOffSecondStep, [KEY], () => setCodes(null));
  const show = useMutation({ mutationFn: recoveryCodes, onSuccess: setCodes });
  const error = said.error ?? on.error ?? off.error ?? show.error;
  return (
    <section aria-label="Two-factor sign-in">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">Two-factor sign-in</h2>
      {state.isPending && <Loading what="the second step" />}
      {state.error && <Failed error={state.error} onRetry={() => state.refetch()} />}
      {state.data && (
        <p className="mt-3" data-testid="second-step">
          {state.data.on
            ? "On: signing in asks for a code of your app as well."
            : "Off. With it, a password alone lets nobody in."}
        </p>
      )}
      {state.data && !said.isSuccess && (
        <form
          className="mt-3 flex items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            said.mutate();
          }}
        >
          <Field
            label="Your password, to change it"
            words
            type="password"
            autoComplete="current-password"
            className="w-56"
            value={password}
            onText={setPassword}
          />
          <Button type="submit" className="min-h-9" disabled={!password || said.isPending}>
            Go on
          </Button>
        </form>
      )}
      {said.isSuccess && state.data?.on && (
        <div className="mt-3 flex gap-2">
          <Button onClick={() => show.mutate()}>Show the spare codes</Button>
          <Button onClick={() => off.mutate()} disabled={off.isPending}>
            Turn it off
          </Button>
        </div>
      )}
      {said.isSuccess && state.data && !state.data.on && state.data.secret && (
        <form
          className="mt-3"
          onSubmit={(event) => {
            event.preventDefault();
            on.mutate();
          }}
        >
          <p className="mb-2 max-w-prose">
            Let an app for such codes read this picture, or type the letters below it. Then type the code it
            shows.
          </p>
          {state.data.address && (
            <QRCodeSVG value={state.data.address} size={148} marginSize={4} title="For the app" />
          )}
          <p className="figures mt-2 mb-3 text-sm break-all">{state.data.secret}</p>
          <div className="flex items-end gap-3">
            <Field
              label="Code"
              className="w-32"
              inputMode="numeric"
              autoComplete="one-time-code"
              value={code}
              onText={setCode}
            />
            <Button kind="strong" type="submit" className="min-h-9" disabled={!code || on.isPending}>
              Turn it on
            </Button>
          </div>
        </form>
      )}
      {codes && (
        <div className="mt-3 border-l-4 border-ink bg-sheet px-4 py-3">
          <p className="mb-2 text-sm">
            Keep these where the telephone is not: each signs you in once when it is lost.
          </p>
          <ul className="figures columns-2 text-sm">
            {codes.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        </div>
      )}
      {error && <Failed error={error} />}
    </section>
  );
}
