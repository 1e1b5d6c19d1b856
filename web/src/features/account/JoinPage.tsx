import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import { api, data } from "~/api/client";
import type { InvitationOpen } from "~/api/week";
import { Button } from "~/ui/Button";
import { Failed, Loading } from "~/ui/states";
import { OutsideField } from "./OutsideField";

/** Behind an invitation's link: the account it is for. */
export function JoinPage() {
  const token = useParams().token ?? "";
  const there = useQuery({
    queryKey: ["join", token],
    queryFn: () => data(api.GET("/api/v1/join/{token}", { params: { path: { token } } })),
    retry: false,
  });
  return (
    <main className="mx-auto max-w-md px-6 py-10">
      <p className="text-xl font-bold tracking-tight">Fortimetra</p>
      {there.isPending && <Loading what="the invitation" />}
      {there.error && <Failed error={there.error} />}
      {there.data && <Join token={token} there={there.data} />}
    </main>
  );
}

function Join({ token, there }: { token: string; there: InvitationOpen }) {
  const [name, setName] = useState(there.student ?? "");
  const [email, setEmail] = useState(there.email);
  const [password, setPassword] = useState("");
  const join = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/v1/join/{token}", { params: { path: { token } }, body: { name, email, password } }),
      ),
    onSuccess: () => window.location.assign("/"),
  });
  return (
    <form
      className="mt-4 flex flex-col gap-3 border-t-2 border-ink pt-5"
      onSubmit={(event) => {
        event.preventDefault();
        join.mutate();
      }}
    >
      <h1 className="text-xl font-semibold">{there.studio}</h1>
      <p className="text-ink-soft">
        {there.teacher} invites you {there.role === "teacher" ? "to teach here" : "to practise here"}. Choose
        what you sign in with.
      </p>
      <OutsideField label="Your name" name="name" autoComplete="name" value={name} onText={setName} />
      <OutsideField
        label="E-mail address"
        type="email"
        name="email"
        autoComplete="username"
        value={email}
        onText={setEmail}
      />
      <OutsideField
        label="Password, at least ten letters"
        type="password"
        name="password"
        autoComplete="new-password"
        minLength={10}
        value={password}
        onText={setPassword}
      />
      {there.role === "student" && (
        <p className="text-sm text-ink-soft">
          Your recordings and what is measured in them are seen by you and your teacher. Your teacher can
          delete them for good.
        </p>
      )}
      <Button kind="strong" type="submit" className="min-h-11" disabled={join.isPending}>
        {join.isPending ? "One moment …" : "Begin"}
      </Button>
      {join.error && <Failed error={join.error} />}
    </form>
  );
}
