import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { meQuery } from "~/api/queries";
import { signIn } from "~/api/session";
import { Button } from "~/ui/Button";
import { Failed } from "~/ui/states";

export function SignIn() {
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const queries = useQueryClient();
  const attempt = useMutation({
    mutationFn: () => signIn(email, password),
    onSuccess: () => queries.invalidateQueries({ queryKey: meQuery.queryKey }),
  });
  const field = "min-h-10 rounded-md border border-rule-strong bg-sheet px-3";
  return (
    <main className="mx-auto grid min-h-screen max-w-4xl items-center gap-12 px-6 md:grid-cols-[1fr_20rem]">
      <div>
        <h1 className="text-4xl font-bold tracking-tight">Fortimetra</h1>
        <p className="mt-3 max-w-prose text-lg text-ink-soft">
          Hears how far each bend missed, in cents, and shows where. Every number is one click from its sound.
        </p>
        <BendFigure />
      </div>
      <form
        className="flex flex-col gap-3 border-t-2 border-ink pt-5"
        onSubmit={(event) => {
          event.preventDefault();
          attempt.mutate();
        }}
      >
        <h2 className="text-xl font-semibold">Sign in</h2>
        <label className="flex flex-col gap-1 text-sm">
          E-mail address
          <input
            className={field}
            type="email"
            name="email"
            autoComplete="username"
            required
            // biome-ignore lint/a11y/noAutofocus: the page has one purpose
            autoFocus
            value={email}
            onChange={(e) => setEmail(e.target.value)}
          />
        </label>
        <label className="flex flex-col gap-1 text-sm">
          Password
          <input
            className={field}
            type="password"
            name="password"
            autoComplete="current-password"
            required
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
        </label>
        <Button kind="strong" type="submit" className="mt-1 min-h-10" disabled={attempt.isPending}>
          {attempt.isPending ? "Signing in …" : "Sign in"}
        </Button>
        {attempt.error && <Failed error={attempt.error} />}
      </form>
    </main>
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
