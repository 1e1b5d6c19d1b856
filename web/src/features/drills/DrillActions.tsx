import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, type DrillDetail, data } from "~/api/client";
import { changeDrill } from "~/api/drills";
import { Button } from "~/ui/Button";
import { Failed } from "~/ui/states";

/** Copy a drill, put it away, or delete one that nothing was played to. */
export function DrillActions({ drill }: { drill: DrillDetail }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const params = { path: { drill_id: drill.id } };
  const copy = useMutation({
    mutationFn: () => data(api.POST("/api/v1/drills/{drill_id}/duplicate", { params })),
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: ["drills"] });
      navigate(`/drills/${made.id}`);
    },
  });
  const putAway = useMutation({
    mutationFn: (archived: boolean) => changeDrill(drill.id, { archived }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["drills"] }),
  });
  const remove = useMutation({
    mutationFn: () => data(api.DELETE("/api/v1/drills/{drill_id}", { params })),
    onSuccess: () => {
      navigate("/drills");
      void queries.invalidateQueries({ queryKey: ["drills"], exact: true });
      queries.removeQueries({ queryKey: ["drills", drill.id] });
    },
  });
  const [sure, setSure] = useState(false);
  const error = copy.error ?? putAway.error ?? remove.error;
  return (
    <div className="mt-4 print:hidden">
      <div className="flex gap-2">
        <Button onClick={() => copy.mutate()} disabled={copy.isPending}>
          Make a copy
        </Button>
        <Button onClick={() => putAway.mutate(!drill.archived)} disabled={putAway.isPending}>
          {drill.archived ? "Restore" : "Archive"}
        </Button>
        {sure ? (
          <>
            <Button kind="strong" onClick={() => remove.mutate()} disabled={remove.isPending}>
              Delete it for good
            </Button>
            <Button onClick={() => setSure(false)}>Keep it</Button>
          </>
        ) : (
          <Button onClick={() => setSure(true)}>Delete</Button>
        )}
      </div>
      {drill.archived && (
        <p className="mt-2 text-sm text-ink-soft">Archived: no longer offered; its takes keep it.</p>
      )}
      {error && <Failed error={error} />}
    </div>
  );
}
