import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { meQuery } from "~/api/queries";
import { askForReset, secondStep, signIn } from "~/api/session";
import { welcomeQuery } from "~/api/week";
import { Button } from "~/ui/Button";
import { Failed } from "~/ui/states";
import { OutsideField } from "./OutsideField";

type Asked = "password" | "code" | "forgotten";

export function SignIn() {
  const [asked, setAsked] = useState<Asked>("password");
  return (
    <main className="mx-auto grid min-h-screen max-w-4xl items-center gap-12 px-6 md:grid-cols-[1fr_20rem]">
      <div>
        <h1 className="text-4xl font-bold tracking-tight">Fortimetra</h1>
        <p className="mt-3 max-w-prose text-lg text-ink-soft">
          Hears how far each bend missed, in cents, and shows where. Every number is one click from its sound.
        </p>
        <BendFigure />
      </div>
      {asked === "password" && <Password onAsked={setAsked} />}
      {asked === "code" && <Code onAsked={setAsked} />}
      {asked === "forgotten" && <Forgotten onAsked={setAsked} />}
    </main>
  );
}

const FORM = "flex flex-col gap-3 border-t-2 border-ink pt-5";

function Password({ onAsked }: { onAsked: (asked: Asked) => void }) {
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const queries = useQueryClient();
  const attempt = useMutation({
    mutationFn: () => signIn(email, password),
    onSuccess: (answer) =>
      answer === "code" ? onAsked("code") : void queries.invalidateQueries({ queryKey: meQuery.queryKey }),
  });
  return (
    <form
      className={FORM}
      onSubmit={(event) => {
        event.preventDefault();
        attempt.mutate();
      }}
    >
      <h2 className="text-xl font-semibold">Sign in</h2>
      <OutsideField
        label="E-mail address"
        type="email"
        name="email"
        autoComplete="username"
        autoFocus
        value={email}
        onText={setEmail}
      />
      <OutsideField
        label="Password"
        type="password"
        name="password"
        autoComplete="current-password"
        value={password}
        onText={setPassword}
      />
      <Button kind="strong" type="submit" className="mt-1 min-h-10" disabled={attempt.isPending}>
        {attempt.isPending ? "Signing in …" : "Sign in"}
      </Button>
      <button type="button" className="self-start text-sm underline" onClick={() => onAsked("forgotten")}>
        Password forgotten
      </button>
      {attempt.error && <Failed error={attempt.error} />}
    </form>
  );
}

/** The second step: a code of the telephone's app, or one of the codes kept for when it is lost. */
function Code({ onAsked }: { onAsked: (asked: Asked) => void }) {
  const [code, setCode] = useState("");
  const queries = useQueryClient();
  const attempt = useMutation({
    mutationFn: () => secondStep(code),
    onSuccess: () => queries.invalidateQueries({ queryKey: meQuery.queryKey }),
  });
  return (
    <form
      className={FORM}
      onSubmit={(event) => {
        event.preventDefault();
        attempt.mutate();
      }}
    >
      <h2 className="text-xl font-semibold">Two-factor sign-in</h2>
      <p className="text-sm text-ink-soft">
        Type the code your app shows, or one of the codes you kept for when it is not at hand.
      </p>
      <OutsideField
        label="Code"
        name="code"
        autoComplete="one-time-code"
        autoFocus
        value={code}
        onText={setCode}
      />
      <Button kind="strong" type="submit" className="mt-1 min-h-10" disabled={attempt.isPending}>
        Go on
      </Button>
      <button type="button" className="self-start text-sm underline" onClick={() => onAsked("password")}>
        Back
      </button>
      {attempt.error && <Failed error={attempt.error} />}
    </form>
  );
}

function Forgotten({ onAsked }: { onAsked: (asked: Asked) => void }) {
  const welcome = useQuery(welcomeQuery);
  const [email, setEmail] = useState("");
  const ask = useMutation({ mutationFn: () => askForReset(email) });
  return (
    <form
      className={FORM}
      onSubmit={(event) => {
        event.preventDefault();
        ask.mutate();
      }}
    >
      <h2 className="text-xl font-semibold">A new password</h2>
      {welcome.data?.mail === false && (
        <p className="text-sm text-ink-soft">
          This server sends no mail. Students ask their teacher for a link; teachers ask who leads the studio,
          or type on the server itself: ./run manage reset_link ADDRESS
        </p>
      )}
      {welcome.data?.mail && !ask.isSuccess && (
        <>
          <OutsideField
            label="E-mail address"
            type="email"
            name="email"
            autoComplete="username"
            autoFocus
            value={email}
            onText={setEmail}
          />
          <Button kind="strong" type="submit" className="mt-1 min-h-10" disabled={ask.isPending}>
            Send me a link
          </Button>
        </>
      )}
      {ask.isSuccess && (
        <p role="status">If there is an account with this address, a link is on its way to it.</p>
      )}
      <button type="button" className="self-start text-sm underline" onClick={() => onAsked("password")}>
        Back
      </button>
      {ask.error && <Failed error={ask.error} />}
    </form>
  );
}

function BendFigure() {
  return (
    <svg viewBox="0 0 420 120" className="mt-8 w-full max-w-md" aria-hidden="true">
      <rect x={0} y={28} width={420} height={24} fill="var(--corridor)" />
      <line x1={0} x2={420} y1={40} y2={40} stroke="var(--ink)" strokeDasharray="2 4" />
      <path
        d="M6 104c60 0 70-1 96-20s34-30 60-30c80 0 120 4 250 6"
        fill="none"
        stroke="var(--under)"
        strokeWidth={2.5}
      />
      <text x={414} y={78} textAnchor="end" fontSize={14} fill="var(--under)">
        18 cents flat
      </text>
    </svg>
  );
}
