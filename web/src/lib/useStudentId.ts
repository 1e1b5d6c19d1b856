import { useParams } from "react-router";
import type { Me } from "~/api/client";

/** Whose page it is: the student of the address, or the student who is signed in. */
export function useStudentId(me: Me): number {
  const { id } = useParams();
  return id === undefined ? (me.student_id ?? 0) : Number(id);
}
