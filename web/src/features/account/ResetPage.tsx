import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import { resetPassword } from "~/api/session";
import { Button, buttonClass } from "~/ui/Button";
import { Failed } from "~/ui/states";
import { OutsideField } from "./OutsideField";

/** Behind the link for a new password. */
export function ResetPage() {
  const key = useParams().key ?? "";
  const [password, setPassword] = useState("");
  const set = useMutation({ mutationFn: () => resetPassword(key, password) });
  return (
    <main className="mx-auto max-w-md px-6 py-10">
      <p className="text-xl font-bold tracking-tight">Fortimetra</p>
      <form
        className="mt-4 flex flex-col gap-3 border-t-2 border-ink pt-5"
        onSubmit={(event) => {
          event.preventDefault();
          set.mutate();
        }}
      >
        <h1 className="text-xl font-semibold">A new password</h1>
        {set.isSuccess ? (
          <>
            <p role="status">It is set. Sign in with it.</p>
            <a className={buttonClass("strong", "min-h-10")} href="/">
              Sign in
            </a>
          </>
        ) : (
          <>
            <OutsideField
              label="Password, at least ten letters"
              type="password"
              name="password"
              autoComplete="new-password"
              minLength={10}
              autoFocus
              value={password}
              onText={setPassword}
            />
            <Button kind="strong" type="submit" className="min-h-10" disabled={set.isPending}>
              Set it
            </Button>
          </>
        )}
        {set.error && <Failed error={set.error} />}
      </form>
    </main>
  );
}
