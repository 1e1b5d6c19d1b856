import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { GuitarContent } from "~/api/client";
import { allGuitarsQuery, guitarQuery } from "~/api/queries";
import { Select } from "~/ui/Select";

/** Fill in a calculator from a guitar that is described, and one of its strings. */
export function FromGuitar({ onPick }: { onPick: (guitar: GuitarContent, string: number) => void }) {
  const guitars = useQuery(allGuitarsQuery);
  const [picked, setPicked] = useState({ guitar: "", string: "3", fresh: false });
  const detail = useQuery({ ...guitarQuery(Number(picked.guitar)), enabled: picked.guitar !== "" });
  const description = detail.data?.description;
  useEffect(() => {
    if (!picked.fresh || !description) return;
    setPicked({ ...picked, fresh: false });
    onPick(description, Number(picked.string));
  }, [picked, description, onPick]);
  if (!guitars.data?.length) return null;
  const count = description?.strings.length ?? 6;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_6rem] gap-4 border-b border-rule pb-4">
      <Select
        label="Fill in from a guitar"
        placeholder="none"
        value={picked.guitar}
        onChange={(guitar) => setPicked({ ...picked, guitar, fresh: true })}
        choices={guitars.data.map((g) => ({ value: String(g.id), label: `${g.name}, ${g.student}` }))}
      />
      <Select
        label="String"
        value={picked.string}
        onChange={(string) => setPicked({ ...picked, string, fresh: picked.guitar !== "" })}
        choices={Array.from({ length: count }, (_, i) => ({ value: String(i + 1), label: String(i + 1) }))}
      />
    </div>
  );
}
