import { useMutation } from "@tanstack/react-query";
import { useParams } from "react-router";
import { api, data } from "~/api/client";
import { Button, buttonClass } from "~/ui/Button";
import { Failed } from "~/ui/states";

/** Behind the link of a letter to a new address. */
export function AddressPage() {
  const token = useParams().token ?? "";
  const confirm = useMutation({
    mutationFn: () => data(api.POST("/api/v1/address/{token}", { params: { path: { token } } })),
  });
  return (
    <main className="mx-auto max-w-md px-6 py-10">
      <p className="text-xl font-bold tracking-tight">Fortimetra</p>
      <div className="mt-4 flex flex-col gap-3 border-t-2 border-ink pt-5">
        <h1 className="text-xl font-semibold">Your new address</h1>
        {confirm.data ? (
          <>
            <p role="status">From now on you sign in as {confirm.data.address}.</p>
            <a className={buttonClass("strong", "min-h-10")} href="/">
              Go on
            </a>
          </>
        ) : (
          <Button
            kind="strong"
            className="min-h-10"
            disabled={confirm.isPending}
            onClick={() => confirm.mutate()}
          >
            Use this address
          </Button>
        )}
        {confirm.error && <Failed error={confirm.error} />}
      </div>
    </main>
  );
}
