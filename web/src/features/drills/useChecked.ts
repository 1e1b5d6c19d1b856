import { useEffect, useState } from "react";
import { api, type DrillContent, type DrillMade, data } from "~/api/client";

const QUIET_MS = 250;

/** What stands in the way of playing a drill that is being written, asked when the keys have been still for a moment. */
export function useChecked(content: DrillContent): { made: DrillMade | null; wrong: string | null } {
  const [found, setFound] = useState<{ made: DrillMade | null; wrong: string | null }>({
    made: null,
    wrong: null,
  });
  useEffect(() => {
    let gone = false;
    const timer = window.setTimeout(() => {
      data(api.POST("/api/v1/drills/check", { body: { content, guitar_id: null } as never })).then(
        (made) => !gone && setFound({ made, wrong: null }),
        (error: Error) => !gone && setFound({ made: null, wrong: error.message }),
      );
    }, QUIET_MS);
    return () => {
      gone = true;
      window.clearTimeout(timer);
    };
  }, [content]);
  return found;
}
