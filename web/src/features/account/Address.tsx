import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type Me } from "~/api/client";
import { Button } from "~/ui/Button";
import { Field } from "~/ui/form/Field";
import { Failed } from "~/ui/states";

/** Another e-mail address: with the password, and confirmed by a letter where letters are sent. */
export function Address({ me }: { me: Me }) {
  const queries = useQueryClient();
  const [address, setAddress] = useState("");
  const [password, setPassword] = useState("");
  const change = useMutation({
    mutationFn: () => data(api.POST("/api/v1/me/address", { body: { address, password } })),
    onSuccess: (asked) => {
      setPassword("");
      if (!asked.mailed) void queries.invalidateQueries({ queryKey: ["me"] });
    },
  });
  return (
    <section aria-label="E-mail address">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">E-mail address</h2>
      <p className="mt-3">You sign in as {me.email}.</p>
      <form
        className="mt-3 flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          change.mutate();
        }}
      >
        <Field
          label="New address"
          words
          type="email"
          autoComplete="email"
          className="w-52"
          value={address}
          onText={setAddress}
        />
        <Field
          label="Your password"
          words
          type="password"
          autoComplete="current-password"
          className="w-44"
          value={password}
          onText={setPassword}
        />
        <Button type="submit" className="min-h-9" disabled={change.isPending || !address || !password}>
          Change the address
        </Button>
      </form>
      {change.data && (
        <p role="status" className="mt-2">
          {change.data.mailed
            ? `A letter is on its way to ${address}. The address counts once its link was opened.`
            : `From now on you sign in as ${address}.`}
        </p>
      )}
      {change.error && <Failed error={change.error} />}
    </section>
  );
}
