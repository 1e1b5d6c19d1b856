import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, data, type Student } from "~/api/client";
import { studentsQuery } from "~/api/queries";
import { Button } from "~/ui/Button";
import { Empty, Failed, Loading } from "~/ui/states";

export function Students() {
  const students = useQuery(studentsQuery);
  return (
    <div className="max-w-3xl">
      <h1 className="mb-4 text-2xl font-bold">Students</h1>
      {students.isPending && <Loading what="students" />}
      {students.error && <Failed error={students.error} onRetry={() => students.refetch()} />}
      {students.data?.length === 0 && (
        <Empty title="No students yet">Add the first one below; takes are kept under a student's name.</Empty>
      )}
      {students.data && students.data.length > 0 && (
        <ul className="border-t border-ink">
          {students.data.map((student) => {
            const count = student.takes;
            return (
              <li
                key={student.id}
                className="relative flex items-baseline justify-between border-b border-rule py-2 hover:bg-sheet"
              >
                <Link to={`/students/${student.id}`} className="font-semibold after:absolute after:inset-0">
                  {student.name}
                </Link>
                <span className="mr-4 ml-auto text-sm text-ink-soft">
                  {student.account ? "" : "no account yet"}
                </span>
                <span className="figures text-sm text-ink-soft">
                  {count} {count === 1 ? "take" : "takes"}
                </span>
              </li>
            );
          })}
        </ul>
      )}
      <AddStudent />
    </div>
  );
}

function AddStudent() {
  const [name, setName] = useState("");
  const queries = useQueryClient();
  const add = useMutation({
    mutationFn: () => data<Student>(api.POST("/api/v1/students", { body: { name } })),
    onSuccess: () => {
      setName("");
      return queries.invalidateQueries({ queryKey: studentsQuery.queryKey });
    },
  });
  return (
    <form
      className="mt-6 flex items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate();
      }}
    >
      <label className="flex flex-col gap-1 text-sm text-ink-soft">
        New student
        <input
          className="min-h-9 w-72 rounded-md border border-rule-strong bg-sheet px-3 text-base text-ink"
          value={name}
          maxLength={120}
          required
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <Button type="submit" disabled={add.isPending || !name.trim()}>
        Add
      </Button>
      {add.error && <Failed error={add.error} />}
    </form>
  );
}
