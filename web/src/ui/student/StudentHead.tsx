import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link, NavLink, useLocation } from "react-router";
import type { Me } from "~/api/client";
import { studentsQuery } from "~/api/queries";
import { cx } from "../cx";

const PARTS = [
  ["", "Overview"],
  ["/plan", "Plan"],
  ["/progress", "Progress"],
  ["/log", "Logbook"],
  ["/sheets", "Lesson sheets"],
] as const;

/** The head of every page about one student: who it is, and the parts of what is kept of them. */
export function StudentHead({ me, id, children }: { me: Me; id: number; children?: ReactNode }) {
  const students = useQuery(studentsQuery);
  const student = students.data?.find((s) => s.id === id);
  const { pathname } = useLocation();
  if (me.role === "student") {
    const part = PARTS.find(([path]) => path !== "" && pathname.startsWith(path));
    return (
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto text-2xl font-bold">{part?.[1] ?? me.name}</h1>
        {children}
      </div>
    );
  }
  return (
    <div className="mb-5">
      <p className="text-sm text-ink-soft print:hidden">
        <Link className="underline" to="/students">
          Students
        </Link>
      </p>
      <div className="flex flex-wrap items-end gap-x-6 gap-y-2 border-b border-rule">
        <h1 className="text-2xl font-bold">{student?.name ?? " "}</h1>
        <nav aria-label="Student" className="mr-auto flex flex-wrap gap-x-4">
          {PARTS.map(([path, label]) => (
            <NavLink
              key={path}
              to={`/students/${id}${path}`}
              end={path === ""}
              className={({ isActive }) =>
                cx(
                  "-mb-px border-b-2 py-1",
                  isActive ? "border-ink font-semibold" : "border-transparent hover:border-rule-strong",
                )
              }
            >
              {label}
            </NavLink>
          ))}
        </nav>
        <div className="pb-1">{children}</div>
      </div>
      {students.data && !student && <p className="py-6">There is no such student here.</p>}
    </div>
  );
}
